// Charts by gnuplot: a script of ours, its data beside it.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace astasis::tool {

struct Line { // of a chart: two columns of numbers
    std::string name;
    std::vector<std::pair<double, double>> points;
    bool bars = false; // else a line
};

struct Chart {
    std::string title, under, x,
        y; // under: a smaller line below the title; x, y: what the axes show, with units
    std::vector<Line> lines;
    bool y_from_zero = false;
};

// The data that `script` plots: a block of two columns for each line.
std::string data_of(const Chart& chart);
// A script that reads the file `data` and writes the file `out`, by their names, .png or .svg.
std::string script_of(const Chart& chart, const std::string& data, const std::string& out);

// Runs gnuplot on a script and data in a folder of their own, and writes the chart to `out`, whose kind the
// name `named` tells. Throws UsageError if there is no gnuplot, or if it refuses.
void plot(const Chart& chart, const std::filesystem::path& named, const std::filesystem::path& out);

}
