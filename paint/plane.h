// Pictures of scenes in the plane, by Cairo, to PNG and SVG: like a figure in a mechanics textbook.
#pragma once

#include "paint/kind.h"
#include "scene/scene.h"

#include <filesystem>

namespace astasis::paint {

struct PictureOptions {
    int width = 1280, height = 800; // pixels, or points of an SVG
};

// Draws the world as it is: shapes, contacts with their forces, centres of mass, velocities; scale bar, time,
// tick and seed. Writes to `file` whatever its ending is. Throws std::runtime_error if it cannot be written.
void draw_plane(const scene::Scene<2>& scene, const scene::Made<2>& made, const std::filesystem::path& file,
                PictureKind kind, const PictureOptions& options = {});

}
