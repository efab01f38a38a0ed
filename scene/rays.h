// Files of rays: what is asked of a scene beside it.
#pragma once

#include "astasis/scene/json_tree.h"

#include "astasis/world_queries.h"

#include <filesystem>

namespace astasis::scene {

// {"astasis_rays": 1, "rays": [{"from": [0, 1], "to": [4, 1]}, ...]}; points of as many numbers as the scene
// has dimensions. Throws FileError as read_scene.
template<int Dim> std::vector<Ray<Dim>> read_rays(const std::filesystem::path& path);
template<int Dim> std::vector<Ray<Dim>> read_rays_text(std::string file, std::string text);

}
