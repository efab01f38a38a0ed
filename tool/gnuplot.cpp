#include "tool/gnuplot.h"

#include "tool/command.h"

#include <fmt/format.h>

#include <array>
#include <fstream>
#include <iterator>

#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

namespace astasis::tool {
namespace {

namespace fs = std::filesystem;

// In gnuplot a single quote within single quotes is written twice; a line break would end the command.
std::string quoted(const std::string& text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? "''" : c == '\n' ? " " : std::string(1, c);
    return out + "'";
}

// Of lines in their order; the first ones are told apart without colour too, by how dark they are.
constexpr std::array<const char*, 6> kColours{"#1f4e79", "#c0563a", "#3d8b5f",
                                              "#7a5aa0", "#b58a1b", "#5c6670"};

class Folder { // that goes when it is done with
public:
    Folder() {
        std::string pattern = (fs::temp_directory_path() / "astasis-chart-XXXXXX").string();
        if (mkdtemp(pattern.data()) == nullptr)
            throw UsageError(fmt::format("no folder can be made in {}", fs::temp_directory_path().string()));
        path_ = pattern;
    }
    ~Folder() {
        std::error_code ignored;
        fs::remove_all(path_, ignored);
    }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    fs::path operator/(const char* name) const { return path_ / name; }

private:
    fs::path path_;
};

void write(const fs::path& file, const std::string& text) {
    std::ofstream out(file, std::ios::binary);
    out << text << std::flush;
    if (!out) throw UsageError(fmt::format("{} could not be written; is the disk full?", file.string()));
}
std::string read(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

// Its exit status; 127 if there is none.
int run_gnuplot(const fs::path& script, const fs::path& said) {
    posix_spawn_file_actions_t actions;
    posix_spawn_file_actions_init(&actions);
    for (const int stream : {1, 2})
        posix_spawn_file_actions_addopen(&actions, stream, said.c_str(), O_WRONLY | O_CREAT | O_APPEND, 0600);
    std::string program = "gnuplot", file = script.string();
    std::array<char*, 3> arguments{program.data(), file.data(), nullptr};
    pid_t child = 0;
    const int error = posix_spawnp(&child, "gnuplot", &actions, nullptr, arguments.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    if (error != 0) return 127;
    int status = 0;
    if (waitpid(child, &status, 0) != child) return 1;
    return WIFEXITED(status) ? WEXITSTATUS(status) : 1;
}

}

std::string data_of(const Chart& chart) {
    std::string out;
    auto to = std::back_inserter(out);
    for (const Line& line : chart.lines) {
        fmt::format_to(to, "# {}\n", line.name);
        for (const auto& [x, y] : line.points) fmt::format_to(to, "{} {}\n", x, y);
        out += "\n\n"; // two empty lines end a block
    }
    return out;
}

std::string script_of(const Chart& chart, const std::string& data, const std::string& out) {
    const bool svg = out.ends_with(".svg");
    std::string text = "# Run by: gnuplot, in this folder.\nset encoding utf8\n";
    text +=
        svg ? "set terminal svg size 1280,800 dynamic noenhanced font 'DejaVu Sans,16' background '#ffffff'\n"
            : "set terminal pngcairo size 1280,800 noenhanced font 'DejaVu Sans,14' background '#ffffff'\n";
    text += fmt::format("set output {}\nset title {}\nset xlabel {}\nset ylabel {}\n", quoted(out),
                        chart.under.empty() ? quoted(chart.title)
                                            : quoted(chart.title) + ".\"\\n\"." + quoted(chart.under),
                        quoted(chart.x), quoted(chart.y));
    text += "set grid lt 1 lw 0.5 lc rgb '#c9ccd2'\nset border 3 lc rgb '#5c6670'\nset tics nomirror\n"
            "set key tmargin center horizontal samplen 2 spacing 1.3\nset style fill solid 0.35\n";
    if (chart.y_from_zero) text += "set yrange [0:*]\n";
    text += "plot";
    for (std::size_t k = 0; k < chart.lines.size(); k++) {
        const Line& line = chart.lines[k];
        text += fmt::format("{} {} index {} using 1:2 with {} lc rgb '{}' title {}",
                            k > 0 ? ", \\\n    " : "", quoted(data), k, line.bars ? "boxes" : "lines lw 2",
                            kColours[k % kColours.size()], quoted(line.name));
    }
    return text + "\n";
}

void plot(const Chart& chart, const fs::path& named, const fs::path& out) {
    const Folder folder;
    const fs::path made = folder / (named.extension() == ".svg" ? "chart.svg" : "chart.png"),
                   data = folder / "chart.dat", script = folder / "chart.gnuplot", said = folder / "said.txt";
    write(data, data_of(chart));
    write(script, script_of(chart, data.string(), made.string()));
    const int status = run_gnuplot(script, said);
    if (status == 127)
        throw UsageError("chart wants the program gnuplot, which is not installed: apt install gnuplot-nox");
    if (status != 0 || !fs::exists(made))
        throw UsageError(fmt::format("gnuplot could not draw the chart; it said: {}", read(said)));
    write(out, read(made));
}

}
