// Triangle meshes from Wavefront OBJ files.
#pragma once

#include "astasis/terrain.h"

#include <filesystem>
#include <string>

namespace astasis::scene {

// All faces of all objects of a file, in metres, cut into triangles; materials and textures are passed over.
// Throws std::runtime_error with a sentence if the file cannot be read or has no face; Error as
// TriangleMesh::of.
TriangleMesh read_obj(const std::filesystem::path& path);

}
