// The bodies as the stages see them: columns with one entry a body, dense.
//
// (1) All columns have the same length; an entry's index is the body's place in all of them.
// (2) Poses here are of the centre of mass, not of the body's own origin.
// (3) Bodies that are not dynamic have inverse mass and inertia 0: impulses do not change them.
// (4) Places below `moving` are of bodies that may move; those that sleep and static ones stand behind them.
// (5) velocity + remainder is the velocity; the remainder is what the last rounding to float left out.
#pragma once

#include "astasis/body.h"
#include "math/inertia.h"

#include <cmath>
#include <cstdint>
#include <vector>

namespace astasis::flow {

template<int Dim> struct CentrePose {
    Point<Dim> centre{};
    Rotation<Dim> rotation{};
};

template<int Dim> struct Velocity {
    Vec<Dim> linear{};
    Axial<Dim> angular{};
};

template<int Dim> struct Push {
    Vec<Dim> force{};
    Axial<Dim> torque{};
};

template<int Dim> struct Mass {
    float mass = 0, inverse_mass = 0;
    math::Inertia<Dim> inertia{}, inverse_inertia{}; // in the body's frame
    Vec<Dim> centre{};                               // in the body's frame
    math::Principal<Dim> principal{};                // only if not isotropic
    bool isotropic = true;
};

// For how long a moving body has been at rest; see sleep/rest.h.
template<int Dim> struct Stillness {
    CentrePose<Dim> since{};   // where it was when it began to
    std::uint32_t ticks = 0;   // for how long
    std::uint32_t leaving = 0; // for how many ticks it has come farther from there in each
    float way = 0;             // how far it has come, m
    float size = 0, reach = 0; // smallest full width of its shapes, farthest point from its centre, m
    bool kept_awake = false;
};

template<int Dim> struct Bodies {
    std::vector<CentrePose<Dim>> pose;
    std::vector<Velocity<Dim>> velocity;
    std::vector<Velocity<Dim>> remainder;
    std::vector<Mass<Dim>> mass;
    std::vector<Push<Dim>> push;
    std::vector<FreeMotion<Dim>> free;
    std::vector<Motion> motion;
    std::vector<Stillness<Dim>> still;
    std::vector<std::uint32_t> claim; // extra work of the body's island: see islands/islands.h
    std::size_t moving = 0;

    std::size_t size() const { return pose.size(); }
};

// The highest speed of points of two bodies past each other, m/s: less costly than by their shapes.
template<int Dim>
inline float most_passing_speed(const Bodies<Dim>& bodies, std::uint32_t a, const Velocity<Dim>& va,
                                std::uint32_t b, const Velocity<Dim>& vb) {
    const auto turning = [&](std::uint32_t i, const Velocity<Dim>& v) {
        const float square = dot(v.angular, v.angular);
        return square > 0 ? std::sqrt(square) * bodies.still[i].reach : 0.0f; // a half-space has no end
    };
    return length(va.linear - vb.linear) + (turning(a, va) + turning(b, vb));
}

}
