#include "scene/obj.h"

#include <stdexcept>
#define TINYOBJLOADER_IMPLEMENTATION
#include <tiny_obj_loader.h>

namespace astasis::scene {

TriangleMesh read_obj(const std::filesystem::path& path) {
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        throw std::runtime_error("there is no file " + path.string());
    tinyobj::ObjReaderConfig config;
    config.triangulate = true;
    tinyobj::ObjReader reader;
    if (!reader.ParseFromFile(path.string(), config))
        throw std::runtime_error(path.string() + " cannot be read as OBJ: " + reader.Error());
    const auto& at = reader.GetAttrib().vertices;
    std::vector<Vec3> corners;
    corners.reserve(at.size() / 3);
    for (std::size_t i = 0; i + 2 < at.size(); i += 3) corners.push_back({at[i], at[i + 1], at[i + 2]});
    std::vector<TriangleMesh::Triangle> triangles;
    for (const auto& shape : reader.GetShapes()) {
        const auto& indices = shape.mesh.indices;
        for (std::size_t i = 0; i + 2 < indices.size(); i += 3) {
            TriangleMesh::Triangle t{};
            for (std::size_t k = 0; k < 3; k++)
                t[k] = static_cast<std::uint32_t>(indices[i + k].vertex_index);
            triangles.push_back(t);
        }
    }
    if (triangles.empty()) throw std::runtime_error(path.string() + " has no faces");
    return TriangleMesh::of(corners, triangles);
}

}
