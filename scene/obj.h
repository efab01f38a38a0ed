// Triangle meshes from Wavefront OBJ files.
#pragma once

#include "astasis/terrain.h"

#include <filesystem>
#include <string>

namespace astasis::scene {

// All faces of all objects of a file, in metres, cut into triangles. Materials, normals and textures are
// passed over, and no other file is opened. Throws std::runtime_error with a sentence, and the line where
// there is one: no regular file, over 64 MiB, a corner that is not three finite numbers, a face that names
// corners there are not, no face; Error as TriangleMesh::of. O(size).
TriangleMesh read_obj(const std::filesystem::path& path);
TriangleMesh read_obj_text(const std::string& text);

}
