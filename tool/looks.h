// What a user may ask of a picture, and of rays: the same options for `run` and `draw`.
#pragma once

#include "paint/picture.h"
#include "record/file_out.h"
#include "tool/options.h"

#include <optional>
#include <string>

namespace astasis::tool {

struct Looks {
    std::string picture; // a file's name, or empty
    std::string rays, hits_csv;
    std::string show, size, eye, target;
    std::optional<double> view_angle; // degrees
};

void add_looks(Options& options, Looks& looks);

// Looks that have been read and checked for a scene. Throws UsageError, FileError, WriteError.
template<int Dim> class Drawing {
public:
    explicit Drawing(const Looks& looks);
    bool wanted() const { return picture_out_ != nullptr; }
    bool casts() const { return rays_given_; }
    // Whether the ways of swept bodies are to be shown, and these.
    bool shows_paths() const { return wanted() && picture_.show.paths; }
    void show_paths(std::vector<std::vector<Point<Dim>>> paths) { picture_.paths = std::move(paths); }
    // Casts the rays, draws; returns the table of the rays.
    std::string draw(const scene::Scene<Dim>& scene, const scene::Made<Dim>& made);
    // Puts the files into place; returns a line for each.
    std::string finish();

private:
    paint::Picture<Dim> picture_;
    bool rays_given_ = false;
    std::unique_ptr<record::FileOut> picture_out_, hits_out_;
};

std::string wrote(const record::FileOut& out);

}
