// Building hulls: the farthest point first (Barber, Dobkin, Huhdanpaa 1996, The Quickhull Algorithm), then
// triangles that lie in one plane are joined.
//
// Coordinates are floats and the arithmetic is in double, so that signs are wrong only for points within
// about 1e-15 of a plane, far below the millionth of the whole by which a point must stand out to count.
#include "shape/facets.h"

#include "astasis/error.h"
#include "base/text.h"
#include "math/numbers.h"
#include "math/wide.h"

#include <algorithm>
#include <map>

namespace astasis::shape {
namespace {

using math::Wide3;

constexpr double kStandsOut = 1e-6, kFlat = 1e-5, kOnePlane = 2e-6; // of the largest extent

struct Face {
    std::array<int, 3> corner{};
    std::array<int, 3> across{}; // the face beyond the edge from corner k to the next
    Wide3 normal{};
    double offset = 0;
    std::vector<int> outside; // points that stand out of this face
    bool gone = false;

    double height(const Wide3& p) const { return dot(normal, p) - offset; }
};

class Builder {
public:
    explicit Builder(std::span<const Vec3> points) {
        points_.reserve(points.size());
        for (const Vec3 p : points) points_.push_back(math::widened(p));
    }

    std::vector<Face> build() {
        begin();
        for (int f = farthest_face(); f >= 0; f = farthest_face()) extend(f);
        std::vector<Face> out;
        for (Face& f : faces_)
            if (!f.gone) out.push_back(std::move(f));
        return out;
    }
    const std::vector<Wide3>& points() const { return points_; }
    double scale() const { return scale_; }

private:
    const Wide3& at(int i) const { return points_[static_cast<std::size_t>(i)]; }
    int count() const { return static_cast<int>(points_.size()); }
    Face& face(int i) { return faces_[static_cast<std::size_t>(i)]; }

    template<typename Score> int best(const Score& score) const {
        int found = 0;
        double most = score(at(0));
        for (int i = 1; i < count(); i++)
            if (const double s = score(at(i)); s > most) most = s, found = i;
        return found;
    }

    // Four points that span a volume: far apart along an axis, far from that line, far from that plane.
    void begin() {
        int low = 0, high = 0;
        for (int axis = 0; axis < 3; axis++) {
            const int l = best([&](const Wide3& p) { return -p[axis]; });
            const int h = best([&](const Wide3& p) { return p[axis]; });
            if (at(h)[axis] - at(l)[axis] > scale_) scale_ = at(h)[axis] - at(l)[axis], low = l, high = h;
        }
        const Wide3 along = unit(at(high) - at(low), Wide3{{1, 0, 0}});
        const int third = best([&](const Wide3& p) { return squared(cross(along, p - at(low))); });
        const Wide3 crossed = cross(along, at(third) - at(low));
        if (!(norm(crossed) > kFlat * scale_)) refuse("line", norm(crossed));
        const Wide3 normal = unit(crossed, Wide3{});
        const auto height = [&](const Wide3& p) { return dot(normal, p - at(low)); };
        const int fourth = best([&](const Wide3& p) { return std::fabs(height(p)); });
        if (!(std::fabs(height(at(fourth))) > kFlat * scale_)) refuse("plane", std::fabs(height(at(fourth))));
        const bool above = height(at(fourth)) > 0;
        const int a = low, b = above ? third : high, c = above ? high : third, d = fourth;
        // (a, b, c) looks away from d; the others share their edges with it.
        add({a, b, c}, {3, 2, 1});
        add({a, c, d}, {0, 2, 3});
        add({c, b, d}, {0, 3, 1});
        add({b, a, d}, {0, 1, 2});
        std::vector<int> all(static_cast<std::size_t>(count()));
        for (int i = 0; i < count(); i++) all[static_cast<std::size_t>(i)] = i;
        hand_out(all, 0);
    }

    [[noreturn]] void refuse(const char* what, double within) const {
        throw Error("points",
                    std::to_string(count()) + " points within " + base::number(static_cast<float>(within)) +
                        " m of one " + what,
                    "points that enclose a volume: farther from any plane than 1e-5 of their extent");
    }

    void add(const std::array<int, 3>& corner, const std::array<int, 3>& across) {
        Face f;
        f.corner = corner, f.across = across;
        const Wide3 crossed = cross(at(corner[1]) - at(corner[0]), at(corner[2]) - at(corner[0]));
        f.normal = unit(crossed, Wide3{});
        f.offset =
            (dot(f.normal, at(corner[0])) + dot(f.normal, at(corner[1])) + dot(f.normal, at(corner[2]))) / 3;
        faces_.push_back(std::move(f));
    }

    // Gives each point to the face, from `first` on, out of which it stands most.
    void hand_out(const std::vector<int>& points, std::size_t first) {
        for (const int p : points) {
            double most = kStandsOut * scale_;
            Face* to = nullptr;
            for (std::size_t i = first; i < faces_.size(); i++)
                if (const double h = faces_[i].height(at(p)); !faces_[i].gone && h > most)
                    most = h, to = &faces_[i];
            if (to != nullptr) to->outside.push_back(p);
        }
    }

    int farthest_face() const {
        for (std::size_t i = 0; i < faces_.size(); i++)
            if (!faces_[i].gone && !faces_[i].outside.empty()) return static_cast<int>(i);
        return -1;
    }

    // Replaces all faces that see the farthest point outside of face f by a fan from the edge of what it
    // sees.
    void extend(int f) {
        int p = face(f).outside.front();
        for (const int q : face(f).outside)
            if (face(f).height(at(q)) > face(f).height(at(p))) p = q;
        std::vector<int> seen{f}, orphans;
        face(f).gone = true;
        for (std::size_t i = 0; i < seen.size(); i++)
            for (const int next : face(seen[i]).across)
                if (!face(next).gone && face(next).height(at(p)) > 1e-13 * scale_)
                    face(next).gone = true, seen.push_back(next);
        // The edges of the hole by their first corner; the hole is one loop.
        std::map<int, std::array<int, 2>> edges; // from corner: to corner, face beyond
        for (const int s : seen) {
            const Face& old = face(s);
            for (std::size_t k = 0; k < 3; k++)
                if (!face(old.across[k]).gone)
                    edges[old.corner[k]] = {old.corner[(k + 1) % 3], old.across[k]};
            orphans.insert(orphans.end(), old.outside.begin(), old.outside.end());
        }
        const std::size_t first = faces_.size();
        const int loop = static_cast<int>(edges.size());
        int from = edges.begin()->first;
        for (int i = 0; i < loop; i++) {
            const auto [to, beyond] = edges[from];
            const int now = static_cast<int>(first) + i;
            add({from, to, p}, {beyond, static_cast<int>(first) + (i + 1) % loop,
                                static_cast<int>(first) + (i + loop - 1) % loop});
            Face& other = face(beyond);
            for (std::size_t k = 0; k < 3; k++)
                if (other.corner[k] == to && other.corner[(k + 1) % 3] == from) other.across[k] = now;
            from = to;
        }
        std::erase(orphans, p);
        hand_out(orphans, first);
        for (const int s : seen) face(s).outside.clear();
    }

    std::vector<Wide3> points_;
    std::vector<Face> faces_;
    double scale_ = 0;
};

double area(const Face& f, const std::vector<Wide3>& points) {
    const auto at = [&](std::size_t k) { return points[static_cast<std::size_t>(f.corner[k])]; };
    return norm(cross(at(1) - at(0), at(2) - at(0)));
}

// Which triangles lie in one plane: groups that grow from the largest triangle. Returns a group's number for
// each.
std::vector<int> groups_of(const std::vector<Face>& faces, const std::vector<Wide3>& points, double tolerance,
                           const std::map<std::array<int, 2>, int>& by_edge) {
    std::vector<std::size_t> order(faces.size());
    std::vector<double> areas(faces.size());
    for (std::size_t i = 0; i < faces.size(); i++) order[i] = i, areas[i] = area(faces[i], points);
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t i, std::size_t k) { return areas[i] > areas[k]; });
    std::vector<int> group(faces.size(), -1);
    int count = 0;
    for (const std::size_t seed : order) {
        if (group[seed] >= 0) continue;
        std::vector<std::size_t> open{seed};
        group[seed] = count;
        for (std::size_t i = 0; i < open.size(); i++)
            for (std::size_t k = 0; k < 3; k++) {
                const Face& f = faces[open[i]];
                const auto next = static_cast<std::size_t>(by_edge.at({f.corner[(k + 1) % 3], f.corner[k]}));
                if (group[next] >= 0 || dot(faces[next].normal, faces[seed].normal) < 0) continue;
                const bool level =
                    std::all_of(faces[next].corner.begin(), faces[next].corner.end(), [&](int c) {
                        return std::fabs(faces[seed].height(points[static_cast<std::size_t>(c)])) <=
                               tolerance;
                    });
                if (level) group[next] = count, open.push_back(next);
            }
        count++;
    }
    return group;
}

// The outline of a group of triangles: the edges that have another group beyond them, in order.
std::vector<int> outline(const std::map<int, int>& next) {
    std::vector<int> out;
    for (int c = next.begin()->first; out.size() < next.size(); c = next.at(c)) out.push_back(c);
    return out;
}

using Loops = std::vector<std::vector<int>>;
Loops joined(const std::vector<Face>& faces, const std::vector<Wide3>& points, double tolerance) {
    std::map<std::array<int, 2>, int> by_edge;
    for (std::size_t i = 0; i < faces.size(); i++)
        for (std::size_t k = 0; k < 3; k++)
            by_edge[{faces[i].corner[k], faces[i].corner[(k + 1) % 3]}] = static_cast<int>(i);
    const std::vector<int> group = groups_of(faces, points, tolerance, by_edge);
    const int groups = 1 + *std::max_element(group.begin(), group.end());
    std::vector<std::map<int, int>> next(static_cast<std::size_t>(groups));
    for (const auto& [edge, f] : by_edge) {
        const int g = group[static_cast<std::size_t>(f)];
        if (group[static_cast<std::size_t>(by_edge.at({edge[1], edge[0]}))] != g)
            next[static_cast<std::size_t>(g)][edge[0]] = edge[1];
    }
    Loops loops;
    loops.reserve(next.size());
    for (const auto& n : next) loops.push_back(outline(n));
    return loops;
}

// Corners in two faces only lie on an edge: they are left out.
void drop_straight(Loops& loops) {
    std::map<int, int> uses;
    for (const auto& loop : loops)
        for (const int c : loop) uses[c]++;
    for (auto& loop : loops) std::erase_if(loop, [&](int c) { return uses[c] < 3; });
}

void list_around(Facets& f) {
    f.around_begin.assign(1, 0);
    for (std::size_t c = 0; c < f.corners.size(); c++) {
        for (std::size_t i = 0; i + 1 < f.loop_begin.size(); i++) {
            const auto loop = f.face(i);
            if (std::find(loop.begin(), loop.end(), c) != loop.end())
                f.around.push_back(static_cast<std::uint16_t>(i));
        }
        f.around_begin.push_back(static_cast<std::uint16_t>(f.around.size()));
    }
}

Facets facets_of(const Loops& loops, const std::vector<Wide3>& points) {
    Facets out;
    std::map<int, std::uint16_t> number;
    out.loop_begin.push_back(0);
    for (const auto& loop : loops) {
        Wide3 normal{}; // Newell's: the sum over the edges, exact for a plane loop and fair for one that is
                        // nearly so
        const Wide3 origin = points[static_cast<std::size_t>(loop[0])];
        for (std::size_t i = 0; i < loop.size(); i++) {
            const auto [it, is_new] =
                number.try_emplace(loop[i], static_cast<std::uint16_t>(out.corners.size()));
            const Wide3& p = points[static_cast<std::size_t>(loop[i])];
            if (is_new) out.corners.push_back(math::narrowed(p));
            out.loops.push_back(it->second);
            normal = normal + cross(p - origin,
                                    points[static_cast<std::size_t>(loop[(i + 1) % loop.size()])] - origin);
        }
        out.loop_begin.push_back(static_cast<std::uint16_t>(out.loops.size()));
        out.normals.push_back(math::narrowed(unit(normal, Wide3{{0, 1, 0}})));
    }
    list_around(out);
    return out;
}

}

Facets facets_around(std::span<const Vec3> points) {
    if (points.size() < 4)
        throw Error("points", std::to_string(points.size()) + " points", "4 or more points");
    for (std::size_t i = 0; i < points.size(); i++)
        if (!math::is_finite(points[i]))
            throw Error("points[" + std::to_string(i) + "]", base::text_of(points[i]), "finite numbers (m)");
    Builder builder(points);
    const std::vector<Face> faces = builder.build();
    if (faces.size() > 10000)
        throw Error("points",
                    std::to_string(points.size()) + " points with " + std::to_string(faces.size()) +
                        " triangles on their hull",
                    "points whose hull has 10000 triangles or fewer");
    Loops loops = joined(faces, builder.points(), kOnePlane * builder.scale());
    drop_straight(loops);
    return facets_of(loops, builder.points());
}

namespace {

// Every edge of the loops in both directions, each once.
bool edges_are_shared(const Facets& f) {
    std::map<std::array<std::uint16_t, 2>, int> uses;
    for (std::size_t i = 0; i < f.normals.size(); i++) {
        const auto loop = f.face(i);
        for (std::size_t k = 0; k < loop.size(); k++)
            if (++uses[{loop[k], loop[(k + 1) % loop.size()]}] > 1) return false;
    }
    return std::all_of(uses.begin(), uses.end(), [&](const auto& use) {
        return uses.contains({use.first[1], use.first[0]});
    });
}

bool loops_are_whole(const Facets& f) {
    if (f.corners.size() < 4 || f.loop_begin.size() != f.normals.size() + 1 || f.loop_begin.front() != 0 ||
        f.loop_begin.back() != f.loops.size())
        return false;
    for (std::size_t i = 0; i < f.normals.size(); i++)
        if (f.loop_begin[i + 1] < f.loop_begin[i] + 3) return false;
    return std::all_of(f.loops.begin(), f.loops.end(), [&](auto c) { return c < f.corners.size(); });
}

// Each face has all corners on its plane or behind it.
bool is_convex(const Facets& f) {
    double scale = 0;
    for (const Vec3 c : f.corners) scale = std::max(scale, norm(math::widened(c - f.corners[0])));
    for (std::size_t i = 0; i < f.normals.size(); i++) {
        const Wide3 normal = math::widened(f.normals[i]), at = math::widened(f.corners[f.face(i)[0]]);
        if (!(std::fabs(norm(normal) - 1) < 1e-5)) return false;
        for (const Vec3 c : f.corners)
            if (!(dot(normal, math::widened(c) - at) <= kFlat * scale)) return false;
    }
    return std::isfinite(scale);
}

}

void check_facets(const Facets& f) {
    const auto refuse = [](const char* field, const char* given, const char* accepted) {
        throw Error(field, given, accepted);
    };
    if (!loops_are_whole(f))
        refuse("loops", "faces that name corners there are not, or have less than three",
               "faces of 3 or more of the corners");
    if (!edges_are_shared(f))
        refuse("loops", "faces that do not close a solid", "each edge in two faces, in opposite directions");
    if (!is_convex(f))
        refuse("normals", "a solid that is not convex", "corners that are all behind each face");
    Facets around{.corners = f.corners,
                  .normals = {},
                  .loops = f.loops,
                  .loop_begin = f.loop_begin,
                  .around = {},
                  .around_begin = {}};
    list_around(around);
    if (around.around != f.around || around.around_begin != f.around_begin)
        refuse("around", "other faces at a corner than those that have it", "the faces that have it");
    for (std::size_t c = 0; c < f.corners.size(); c++)
        if (f.faces_at(c).size() < 3) refuse("around", "a corner of less than 3 faces", "3 or more");
}

const Facets& box_facets() {
    static const Facets facets = [] {
        Facets f;
        for (int k = 0; k < 8; k++)
            f.corners.push_back({k & 1 ? -1.0f : 1.0f, k & 2 ? -1.0f : 1.0f, k & 4 ? -1.0f : 1.0f});
        f.normals = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
        f.loops = {0, 2, 6, 4, 1, 5, 7, 3, 0, 4, 5, 1, 2, 3, 7, 6, 0, 1, 3, 2, 4, 6, 7, 5};
        f.loop_begin = {0, 4, 8, 12, 16, 20, 24};
        list_around(f);
        return f;
    }();
    return facets;
}

}

namespace astasis {

Hull Hull::around(std::span<const Vec3> points) {
    return Hull(std::make_shared<const shape::Facets>(shape::facets_around(points)));
}
Hull Hull::grown(float rounding) const {
    if (!(rounding >= 0) || !math::is_finite(rounding))
        throw Error("rounding", base::number(rounding), "a finite number, 0 or more (m)");
    Hull out = *this;
    out.rounding_ = rounding;
    return out;
}
std::span<const Vec3> Hull::corners() const { return facets_->corners; }
int Hull::face_count() const { return static_cast<int>(facets_->normals.size()); }
std::span<const std::uint16_t> Hull::face(int i) const { return facets_->face(static_cast<std::size_t>(i)); }
Vec3 Hull::normal(int i) const { return facets_->normals[static_cast<std::size_t>(i)]; }

}
