// Pictures of scenes, in the plane and in space, to PNG and SVG: like a figure in a mechanics textbook.
#pragma once

#include "astasis/scene/scene.h"
#include "paint/kind.h"

#include "astasis/world_queries.h"

#include <filesystem>

namespace astasis::paint {

// What is drawn beside the shapes.
struct Switches {
    bool centres = true, velocities = true, contacts = true, forces = true, joints = true, fields = true,
         sensors = true;
    bool bounds = false, axes = false, names = false;
    bool islands = false, paths = false; // links of what hangs together; ways of swept bodies
};

// Rays that were cast, and what each met first.
template<int Dim> struct Casts {
    std::vector<Ray<Dim>> rays;
    std::vector<std::optional<Hit<Dim>>> hits;
};

// Where a picture in space is seen from; what is not given is chosen so that the whole scene is seen.
struct View {
    std::optional<Point3> eye, target;
    std::optional<double> angle; // of view, from top to bottom, radians
};

template<int Dim> struct Picture {
    int width = 1280, height = 800; // pixels, or points of an SVG
    Switches show{};
    View view{}; // in space
    Casts<Dim> casts{};
    std::vector<std::vector<Point<Dim>>> paths{}; // shown if asked for: see record/paths.h
};

// Draws the world as it is; scale, time, tick and seed stand in the margin. Writes to `file` whatever its
// ending is. Throws std::runtime_error if it cannot be written.
void draw_picture(const scene::Scene<2>& scene, const scene::Made<2>& made, const std::filesystem::path& file,
                  PictureKind kind, const Picture<2>& picture = {});
void draw_picture(const scene::Scene<3>& scene, const scene::Made<3>& made, const std::filesystem::path& file,
                  PictureKind kind, const Picture<3>& picture = {});

}
