// Rays cast in a scene, and what each met first, as rows of text.
#pragma once

#include "astasis/scene/scene.h"

#include "astasis/world_queries.h"

#include <string>

namespace astasis::record {

// A table for a terminal; the numbers of rays count from 0 as the file lists them. And as CSV.
template<int Dim>
std::string casts_table(const scene::Made<Dim>& made, const std::vector<Ray<Dim>>& rays,
                        const std::vector<std::optional<Hit<Dim>>>& hits);
template<int Dim>
std::string casts_csv(const scene::Made<Dim>& made, const std::vector<Ray<Dim>>& rays,
                      const std::vector<std::optional<Hit<Dim>>>& hits);

}
