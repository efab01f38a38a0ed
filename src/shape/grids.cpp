// Pieces of surfaces within a window; grids make theirs when asked.
#include "shape/surface.h"

#include <cmath>
#include <limits>

namespace astasis::shape {
namespace {

template<int Dim>
void take(const Surface<Dim>& s, bool two_sided, const Window<Dim>& w, std::vector<Piece<Dim>>& out) {
    s.tree.query({w.low, w.high}, [&](std::uint32_t i) {
        out.push_back(s.pieces[i]);
        out.back().two_sided = two_sided;
    });
}

// Clamped before it becomes an integer; NaN becomes `low`.
int cell_of(float x, float pitch, int low, int high) {
    const float c = std::floor(x / pitch);
    return c > static_cast<float>(low) ? c < static_cast<float>(high) ? static_cast<int>(c) : high : low;
}

// The walls of a grid along one axis: runs of cells that are solid on one hand and empty on the other.
class Walls {
public:
    Walls(const TileGrid& grid, bool upright, std::vector<Piece<2>>& out)
        : grid_(grid), upright_(upright), out_(out) {}

    // Line `line` between two rows (or columns), cells `from` to `to` along it.
    void along(int line, int from, int to) {
        for (int i = from; i <= to;) {
            const int side = side_at(line, i), thick = thickness(line, i, side);
            int end = i + 1;
            while (end <= to && side_at(line, end) == side && thickness(line, end, side) == thick) end++;
            if (side != 0) add(line, i, end, side, thick);
            i = end;
        }
    }

private:
    bool solid(int line, int i) const { return upright_ ? grid_.is_solid(line, i) : grid_.is_solid(i, line); }
    // +1: solid below the line (towards lower numbers) and empty above; -1 the other way; 0 no wall.
    int side_at(int line, int i) const {
        return static_cast<int>(solid(line - 1, i)) - static_cast<int>(solid(line, i));
    }
    // How many cells behind a wall are solid, of the first few.
    int thickness(int line, int i, int side) const {
        constexpr int kMost = 8;
        int count = 0;
        while (side != 0 && count < kMost && solid(side > 0 ? line - 1 - count : line + count, i)) count++;
        return count;
    }
    Vec2 vec(float along, float across) const { return upright_ ? Vec2{across, along} : Vec2{along, across}; }

    // What lies beyond the end of a wall, next to cell i: the same wall, a wall towards the empty side, or
    // the edge.
    Vec2 beyond(int line, int i, int side, float onwards) const {
        const int empty = side > 0 ? line : line - 1, full = side > 0 ? line - 1 : line;
        const auto out = static_cast<float>(side);
        if (solid(empty, i)) return vec(0, out);
        return solid(full, i) ? vec(onwards, 0) : vec(0, -out);
    }

    void add(int line, int from, int to, int side, int thick) {
        const float c = grid_.cell;
        Piece<2> p;
        p.corner = {vec(static_cast<float>(from) * c, static_cast<float>(line) * c),
                    vec(static_cast<float>(to) * c, static_cast<float>(line) * c)};
        p.normal = vec(0, static_cast<float>(side));
        p.beyond = {beyond(line, from - 1, side, -1), beyond(line, to, side, 1)};
        p.id = static_cast<std::uint32_t>(line);
        p.through = -p.normal;
        p.solid = 0.5f * c * static_cast<float>(thick);
        out_.push_back(p);
    }

    const TileGrid& grid_;
    bool upright_;
    std::vector<Piece<2>>& out_;
};

void walls_in(const TileGrid& g, const Window<2>& w, std::vector<Piece<2>>& out) {
    const int left = cell_of(w.low.x, g.cell, 0, g.columns) - 1,
              right = cell_of(w.high.x, g.cell, -1, g.columns) + 1;
    const int low = cell_of(w.low.y, g.cell, 0, g.rows) - 1, high = cell_of(w.high.y, g.cell, -1, g.rows) + 1;
    Walls level(g, false, out), upright(g, true, out);
    for (int row = low; row <= high; row++) level.along(row, left, right);
    for (int column = left; column <= right; column++) upright.along(column, low, high);
}

// A height field's triangles: each cell is cut from its lower left to its upper right node, as seen from
// above with x to the right and z up the page; normals look to +y.
class Ground {
public:
    explicit Ground(const HeightField& f) : f_(f) {}

    void add(int column, int row, std::vector<Piece<3>>& out) const {
        const Vec3 p = node(column, row), q = node(column + 1, row + 1);
        const Vec3 low = node(column + 1, row), high = node(column, row + 1);
        // Across the cut lies the other half; across the outer edges the halves of the cells beside.
        out.push_back(
            piece({p, q, low}, {&high, has(column + 1, row), has(column, row - 1)}, column, row, 0));
        out.push_back(
            piece({p, high, q}, {has(column - 1, row), has(column, row + 1), &low}, column, row, 1));
    }

private:
    Vec3 node(int column, int row) const {
        return {static_cast<float>(column) * f_.pitch, f_.height(column, row),
                static_cast<float>(row) * f_.pitch};
    }
    bool inside(int column, int row) const {
        return column >= 0 && row >= 0 && column + 1 < f_.columns && row + 1 < f_.rows;
    }

    // The corner of the neighbour that is not on the shared edge, or which cell the neighbour is in.
    struct Apex {
        Apex(const Vec3* at) : place(at) {}
        Apex(int c, int r) : column(c), row(r) {}
        const Vec3* place = nullptr;
        int column = 0, row = 0;
    };
    Apex has(int column, int row) const { return {column, row}; }

    Piece<3> piece(const std::array<Vec3, 3>& corner, const std::array<Apex, 3>& apex, int column, int row,
                   int half) const {
        Piece<3> out;
        out.corner = corner;
        out.normal = direction(cross(corner[1] - corner[0], corner[2] - corner[0]), Vec3{0, 1, 0});
        for (std::size_t k = 0; k < 3; k++) {
            Vec3 to{};
            if (apex[k].place != nullptr) to = *apex[k].place;
            else if (!inside(apex[k].column, apex[k].row)) continue;
            else to = apex_of(apex[k].column - column, apex[k].row - row, column, row);
            const Vec3 from = corner[k], along = direction(corner[(k + 1) % 3] - from, Vec3{});
            out.beyond[k] = direction((to - from) - along * dot(to - from, along), Vec3{});
        }
        out.id = static_cast<std::uint32_t>((row * (f_.columns - 1) + column) * 2 + half);
        out.through = {0, -1, 0};
        out.solid = std::numeric_limits<float>::infinity();
        return out;
    }

    // The far corner of the half of a neighbouring cell that shares an edge with this one.
    Vec3 apex_of(int right, int up, int column, int row) const {
        if (right > 0) return node(column + 2, row + 1);
        if (right < 0) return node(column - 1, row);
        return up > 0 ? node(column + 1, row + 2) : node(column, row - 1);
    }

    const HeightField& f_;
};

void ground_in(const HeightField& f, const Window<3>& w, std::vector<Piece<3>>& out) {
    const Ground ground(f);
    const int left = cell_of(w.low.x, f.pitch, 0, f.columns - 1),
              right = cell_of(w.high.x, f.pitch, -1, f.columns - 2);
    const int near = cell_of(w.low.z, f.pitch, 0, f.rows - 1),
              far = cell_of(w.high.z, f.pitch, -1, f.rows - 2);
    for (int row = near; row <= far; row++)
        for (int column = left; column <= right; column++) {
            const float highest =
                std::max(std::max(f.height(column, row), f.height(column + 1, row)),
                         std::max(f.height(column, row + 1), f.height(column + 1, row + 1)));
            if (highest >= w.low.y) ground.add(column, row, out);
        }
}

}

bool is_surface(const Geometry<2>& g) {
    return std::holds_alternative<Polyline>(g) || std::holds_alternative<TileGrid>(g);
}
bool is_surface(const Geometry<3>& g) {
    return std::holds_alternative<TriangleMesh>(g) || std::holds_alternative<HeightField>(g);
}

void pieces_in(const Geometry<2>& g, const Window<2>& w, std::vector<Piece<2>>& out) {
    if (const auto* line = std::get_if<Polyline>(&g)) take(line->surface(), line->is_two_sided(), w, out);
    else if (const auto* grid = std::get_if<TileGrid>(&g)) walls_in(*grid, w, out);
}
void pieces_in(const Geometry<3>& g, const Window<3>& w, std::vector<Piece<3>>& out) {
    if (const auto* mesh = std::get_if<TriangleMesh>(&g)) take(mesh->surface(), mesh->is_two_sided(), w, out);
    else if (const auto* field = std::get_if<HeightField>(&g)) ground_in(*field, w, out);
}

Window<2> window_of(const Geometry<2>& g) {
    if (const auto* line = std::get_if<Polyline>(&g)) {
        const auto box = line->surface().tree.bounds();
        return {box.low, box.high};
    }
    const auto& grid = std::get<TileGrid>(g);
    return {{0, 0},
            {static_cast<float>(grid.columns) * grid.cell, static_cast<float>(grid.rows) * grid.cell}};
}
Window<3> window_of(const Geometry<3>& g) {
    if (const auto* mesh = std::get_if<TriangleMesh>(&g)) {
        const auto box = mesh->surface().tree.bounds();
        return {box.low, box.high};
    }
    const auto& f = std::get<HeightField>(g);
    Window<3> out{{0, f.heights[0], 0},
                  {static_cast<float>(f.columns - 1) * f.pitch, f.heights[0],
                   static_cast<float>(f.rows - 1) * f.pitch}};
    for (const float h : f.heights) out.low.y = std::min(out.low.y, h), out.high.y = std::max(out.high.y, h);
    return out;
}

}
