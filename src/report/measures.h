// Energy and momentum of bodies, and the contacts of the last tick as the public structs show them.
// Stage report. Reads bodies and manifolds; sums in double, in the order of the bodies.
#pragma once

#include "astasis/report.h"
#include "flow/contacts.h"

#include <span>

namespace astasis::report {

template<int Dim>
Energy energy_of(const flow::Bodies<Dim>& bodies, std::size_t body, const Vec<Dim>& gravity);
template<int Dim> Momentum<Dim> momentum_of(const flow::Bodies<Dim>& bodies);
template<int Dim>
Penetration penetration_of(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds);
// Adds what kinematic bodies and running surfaces gave to dynamic bodies in the last tick, of `tick` seconds:
// each impulse times the speed with which what pushed moved there.
template<int Dim>
void add_work(const flow::Bodies<Dim>& bodies, std::span<const flow::Manifold<Dim>> manifolds, double tick,
              Work& work);
// Whether a point of it touched: overlaps now, or had an impulse in the last tick.
template<int Dim> bool touches(const flow::Manifold<Dim>& manifold, const flow::Bodies<Dim>& bodies);
// Only points that touched: that overlap now or had an impulse in the last tick.
template<int Dim>
std::vector<Contact<Dim>> contacts_of(const flow::Bodies<Dim>& bodies,
                                      std::span<const flow::Manifold<Dim>> manifolds,
                                      std::span<const BodyId> ids);

}
