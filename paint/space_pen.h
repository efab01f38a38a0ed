// Gathers what draw() tells of a world in space.
#pragma once

#include "paint/figure.h"
#include "paint/raster.h"

#include "astasis/drawing.h"

#include <map>
#include <string>
#include <vector>

namespace astasis::paint {

struct Facet {
    Vec3 normal;
    std::uint32_t shape; // same for facets of one shape
    Colour colour;
    bool still, ground, mesh, asleep;
    std::vector<Point<3>> corners;
};

class SpacePen : public Pen<3> {
public:
    SpacePen(const scene::Scene<3>& scene, const scene::Made<3>& made) : scene_(scene), made_(made) {}

    struct Line {
        Point<3> from, to;
        Mark<3> mark;
    };
    struct Spot {
        Point<3> at;
        Mark<3> mark;
        std::string text;
    };
    std::vector<Facet> facets;
    std::vector<std::vector<Point<3>>> frames, regions; // outlines of bounds, and of fields
    struct Pane {                                       // a facet of a sensor
        std::vector<Point<3>> corners;
        Mark<3> mark;
    };
    std::vector<Pane> panes;
    std::vector<Line> lines;
    std::vector<Spot> spots;

    void line(const Point<3>& from, const Point<3>& to, const Mark<3>& mark) override {
        if (mark.meaning != Meaning::Spoke) lines.push_back({from, to, mark});
    }
    void area(std::span<const Point<3>> corners, const Mark<3>& mark) override {
        if (mark.meaning == Meaning::Bounds || mark.meaning == Meaning::Field) {
            (mark.meaning == Meaning::Field ? regions : frames).emplace_back(corners.begin(), corners.end());
            return;
        }
        if (mark.meaning == Meaning::Sensor) {
            panes.push_back({{corners.begin(), corners.end()}, mark});
            return;
        }
        const auto& geometry = made_.world.shape(mark.body, mark.shape).geometry;
        facets.push_back(
            {mark.vector,
             number_of(mark.body, mark.shape),
             fill_of_shape(scene_, made_, mark.body, mark.shape),
             mark.motion == Motion::Static,
             std::holds_alternative<HalfSpace<3>>(geometry),
             std::holds_alternative<TriangleMesh>(geometry) || std::holds_alternative<HeightField>(geometry),
             mark.asleep,
             {corners.begin(), corners.end()}});
    }
    void point(const Point<3>& at, const Mark<3>& mark) override { spots.push_back({at, mark, {}}); }
    void text(const Point<3>& at, std::string_view text, const Mark<3>& mark) override {
        spots.push_back({at, mark, std::string(text)});
    }
    std::uint32_t number_of(BodyId body, std::uint32_t shape) {
        const auto key = std::pair{made_.world.user_data(body), shape};
        return numbers_.try_emplace(key, static_cast<std::uint32_t>(numbers_.size())).first->second;
    }

    std::uint32_t known_number(BodyId body, std::uint32_t shape) const {
        const auto found = numbers_.find({made_.world.user_data(body), shape});
        return found == numbers_.end() ? Raster::kNone : found->second;
    }

private:
    const scene::Scene<3>& scene_;
    const scene::Made<3>& made_;
    std::map<std::pair<std::uint64_t, std::uint32_t>, std::uint32_t> numbers_;
};

}
