#include "record/casts.h"

#include "record/table.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis::record {
namespace {

// A number that a table would show as -0.0000 becomes 0.
double plain(double x) { return std::fabs(x) < 5e-5 ? 0.0 : x; }

template<typename V> std::string in_columns(const V& v, int dim, const char* format) {
    std::string out;
    for (int k = 0; k < dim; k++) out += fmt::format(fmt::runtime(format), plain(v[k]));
    return out;
}

}

template<int Dim>
std::string casts_table(const scene::Made<Dim>& made, const std::vector<Ray<Dim>>& rays,
                        const std::vector<std::optional<Hit<Dim>>>& hits) {
    std::size_t widest = 7;
    for (const auto& hit : hits)
        if (hit) widest = std::max(widest, made.name_of(hit->body).size());
    const std::size_t count = static_cast<std::size_t>(
        std::count_if(hits.begin(), hits.end(), [](const auto& h) { return h.has_value(); }));
    std::string out = fmt::format("Rays at {:.4f} s: {} of {} hit\n", made.world.time(), count, rays.size());
    out += fmt::format("  {:>4}  {:<{}} {:>5} {:>6} {:>11} {:>9}", "ray", "hits", widest, "shape", "piece",
                       "distance, m", "fraction");
    for (const char* axis : {"x, m", "y, m", "z, m"})
        if (Dim == 3 || *axis != 'z') out += fmt::format("{:>10}", axis);
    for (const char* axis : {"normal x", "y", "z"})
        if (Dim == 3 || *axis != 'z') out += fmt::format("{:>9}", axis);
    out += "\n";
    for (std::size_t i = 0; i < rays.size(); i++) {
        const auto& hit = hits[i];
        if (!hit) {
            out += fmt::format("  {:>4}  nothing within {:.4g} m\n", i, length(rays[i].displacement));
            continue;
        }
        out += fmt::format("  {:>4}  {:<{}} {:>5} {:>6} {:>11.4f} {:>9.5f}", i, made.name_of(hit->body),
                           widest, hit->shape, hit->piece,
                           hit->fraction * static_cast<double>(length(rays[i].displacement)), hit->fraction);
        out += in_columns(hit->position, Dim, "{:>10.4f}") + in_columns(hit->normal, Dim, "{:>9.4f}") + "\n";
    }
    return out;
}

template<int Dim>
std::string casts_csv(const scene::Made<Dim>& made, const std::vector<Ray<Dim>>& rays,
                      const std::vector<std::optional<Hit<Dim>>>& hits) {
    std::string out = "ray,body,shape,piece,distance_m,fraction,";
    out += Dim == 2 ? "x_m,y_m,nx,ny\n" : "x_m,y_m,z_m,nx,ny,nz\n";
    for (std::size_t i = 0; i < rays.size(); i++) {
        const auto& hit = hits[i];
        if (!hit) {
            out += fmt::format("{}{}\n", i, std::string(Dim == 2 ? 9 : 11, ','));
            continue;
        }
        out += fmt::format("{},{},{},{},{},{}", i, quoted(made.name_of(hit->body)), hit->shape, hit->piece,
                           hit->fraction * static_cast<double>(length(rays[i].displacement)), hit->fraction);
        out += in_columns(hit->position, Dim, ",{}") + in_columns(hit->normal, Dim, ",{}") + "\n";
    }
    return out;
}

#define ASTASIS_INSTANTIATE(Dim)                                                                             \
    template std::string casts_table(const scene::Made<Dim>&, const std::vector<Ray<Dim>>&,                  \
                                     const std::vector<std::optional<Hit<Dim>>>&);                           \
    template std::string casts_csv(const scene::Made<Dim>&, const std::vector<Ray<Dim>>&,                    \
                                   const std::vector<std::optional<Hit<Dim>>>&);
ASTASIS_INSTANTIATE(2)
ASTASIS_INSTANTIATE(3)

}
