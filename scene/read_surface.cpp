#include "scene/read_surface.h"

#include "scene/obj.h"

#include <stdexcept>

namespace astasis::scene {

Geometry<2> read_polyline(const Cursor& c) {
    const auto corners = points_of<2>(c.at("corners"), "a list of two or more corners, each [x, y]");
    const bool closed = c.has("closed") && c.at("closed").truth();
    const Polyline line = refused_here(
        c.at("corners"), [&] { return closed ? Polyline::closed(corners) : Polyline::open(corners); });
    return c.has("two_sided") && c.at("two_sided").truth() ? line.two_sided() : line;
}

Geometry<2> read_tiles(const Cursor& c) {
    const char* what = "a list of rows of one length, each of # (solid) and . (empty)";
    const auto rows = c.at("tiles").items(what);
    if (rows.empty()) c.at("tiles").fail(what);
    TileGrid out;
    out.cell = number(c.at("cell"), kPositive);
    out.rows = static_cast<int>(rows.size());
    for (auto row = rows.rbegin(); row != rows.rend(); ++row) { // the file begins at the top
        const std::string cells = row->string(what);
        if (row == rows.rbegin()) out.columns = static_cast<int>(cells.size());
        if (cells.empty() || cells.size() != static_cast<std::size_t>(out.columns)) row->fail(what);
        for (const char cell : cells) {
            if (cell != '#' && cell != '.') row->fail(what);
            out.solid.push_back(cell == '#');
        }
    }
    return out;
}

Geometry<3> read_height_field(const Cursor& c) {
    const char* what = "two or more rows of two or more heights, all of one length";
    HeightField out;
    out.pitch = number(c.at("pitch"), kPositive);
    for (const Cursor& row : c.at("heights").items(what)) {
        const auto heights = row.items(what);
        if (out.rows == 0) out.columns = static_cast<int>(heights.size());
        if (heights.size() < 2 || heights.size() != static_cast<std::size_t>(out.columns)) row.fail(what);
        for (const Cursor& height : heights) out.heights.push_back(number(height, kAnyNumber));
        out.rows++;
    }
    if (out.rows < 2) c.at("heights").fail(what);
    return out;
}

Geometry<3> read_mesh(const Cursor& c) {
    const bool two_sided = c.has("two_sided") && c.at("two_sided").truth();
    const auto finished = [&](const TriangleMesh& mesh) { return two_sided ? mesh.two_sided() : mesh; };
    if (c.has("file")) {
        if (c.has("corners") || c.has("triangles"))
            c.fail_because("a mesh has a file, or corners and triangles: not both");
        const Cursor file = c.at("file");
        const auto beside = std::filesystem::path(c.document().file).parent_path();
        const std::string name = file.string("the name of an OBJ file beside the scene file");
        try {
            c.document().others.push_back(beside / name);
            return finished(read_obj(beside / name));
        } catch (const std::exception& e) {
            file.fail_because(e.what());
        }
    }
    const auto corners = points_of<3>(c.at("corners"), "a list of three or more corners, each [x, y, z]");
    std::vector<TriangleMesh::Triangle> triangles;
    const char* what = "a list of triangles, each of three numbers of corners, from 0";
    for (const Cursor& item : c.at("triangles").items(what)) {
        const auto numbers = item.items(what);
        if (numbers.size() != 3 || corners.empty()) item.fail(what);
        TriangleMesh::Triangle t{};
        for (std::size_t k = 0; k < 3; k++)
            t[k] = static_cast<std::uint32_t>(numbers[k].whole(0, corners.size() - 1));
        triangles.push_back(t);
    }
    return finished(refused_here(c.at("triangles"), [&] { return TriangleMesh::of(corners, triangles); }));
}

}
