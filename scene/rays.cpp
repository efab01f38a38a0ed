#include "scene/rays.h"

#include "scene/cursor.h"
#include "scene/keys.h"
#include "scene/read_text.h"

namespace astasis::scene {

template<int Dim> static Point<Dim> point(const Cursor& c) {
    const auto n = c.numbers<Dim>(kAnyNumber);
    Point<Dim> out{};
    for (int i = 0; i < Dim; i++) out[i] = n[static_cast<std::size_t>(i)];
    return out;
}

template<int Dim> std::vector<Ray<Dim>> read_rays(const std::filesystem::path& path) {
    return read_rays_text<Dim>(path.string(), read_text(path));
}

template<int Dim> std::vector<Ray<Dim>> read_rays_text(std::string file, std::string text) {
    const Document document = parse(std::move(file), std::move(text));
    const Cursor root(document);
    root.only(keys::kRays);
    root.at("astasis_rays").whole(1, 1);
    std::vector<Ray<Dim>> out;
    for (const Cursor& c : root.at("rays").items("a list of rays")) {
        c.only(keys::kRay);
        const Point<Dim> from = point<Dim>(c.at("from"));
        out.push_back({from, point<Dim>(c.at("to")) - from});
    }
    return out;
}

template std::vector<Ray<2>> read_rays(const std::filesystem::path&);
template std::vector<Ray<3>> read_rays(const std::filesystem::path&);
template std::vector<Ray<2>> read_rays_text(std::string, std::string);
template std::vector<Ray<3>> read_rays_text(std::string, std::string);

}
