#include "tool/quantity.h"

#include "scene/nearest.h"
#include "tool/command.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace astasis::tool {
namespace {

// The ends of our columns' names, the longer ones first, and how the unit is written.
constexpr std::pair<const char*, const char*> kUnits[] = {{"_kg_m2_s", "kg m2/s"},
                                                          {"_kg_m_s", "kg m/s"},
                                                          {"_rad_s", "rad/s"},
                                                          {"_m_s", "m/s"},
                                                          {"_m_per_s", "m/s"},
                                                          {"_rad", "rad"},
                                                          {"_Ns", "N s"},
                                                          {"_ms", "ms"},
                                                          {"_m", "m"},
                                                          {"_J", "J"},
                                                          {"_s", "s"}};

Quantity quantity_of(const std::string& column, std::size_t number) {
    for (const auto& [end, unit] : kUnits)
        if (column.ends_with(end)) {
            std::string name = column.substr(0, column.size() - std::string(end).size());
            std::replace(name.begin(), name.end(), '_', ' ');
            return {name, unit, {number}};
        }
    std::string name = column;
    std::replace(name.begin(), name.end(), '_', ' ');
    return {name, "", {number}};
}

// All that the table has: columns of numbers, then what is made of several.
std::vector<Quantity> all_of(const record::TableIn& table) {
    std::vector<Quantity> out;
    const auto& columns = table.columns();
    for (std::size_t k = 0; k < columns.size(); k++) {
        const bool is_name = columns[k] == "body" || columns[k] == "event" || columns[k] == "first" ||
                             columns[k] == "second" || columns[k].ends_with("_shape");
        if (!is_name && columns[k] != "tick" && columns[k] != "time_s")
            out.push_back(quantity_of(columns[k], k));
    }
    const auto vector = [&](const char* name, const char* unit, const std::vector<std::string>& parts) {
        Quantity made{name, unit, {}};
        for (const std::string& part : parts)
            if (const std::size_t at = table.column(part); at < columns.size()) made.columns.push_back(at);
        if (!made.columns.empty()) out.push_back(made);
    };
    vector("speed", "m/s", {"vx_m_s", "vy_m_s", "vz_m_s"});
    vector("spin", "rad/s", {"wx_rad_s", "wy_rad_s", "wz_rad_s"});
    vector("impulse", "N s", {"impulse_x_Ns", "impulse_y_Ns", "impulse_z_Ns"});
    vector("momentum", "kg m/s", {"momentum_x_kg_m_s", "momentum_y_kg_m_s", "momentum_z_kg_m_s"});
    return out;
}

std::vector<std::string> words_of(const std::string& list) {
    std::vector<std::string> out(1);
    for (const char c : list) {
        if (c == ',') out.emplace_back();
        else out.back() += c;
    }
    return out;
}

}

std::optional<double> Quantity::of(const record::TableIn& table,
                                   const std::vector<std::string>& cells) const {
    if (columns.size() == 1) {
        if (cells[columns[0]].empty()) return {};
        return table.number(cells, columns[0]);
    }
    double squares = 0;
    for (const std::size_t column : columns) {
        if (cells[column].empty()) return {};
        const double part = table.number(cells, column);
        squares += part * part;
    }
    return std::sqrt(squares);
}

std::vector<Quantity> quantities_of(const record::TableIn& table, const std::string& list) {
    const std::vector<Quantity> all = all_of(table);
    const bool measures = table.column("kinetic_J") < table.columns().size();
    std::vector<Quantity> out;
    for (const std::string& word :
         words_of(list.empty() ? measures ? "kinetic,potential,total" : "speed" : list)) {
        const auto is_meant = [&](const Quantity& q) {
            std::string name = word;
            std::replace(name.begin(), name.end(), '_', ' ');
            return q.name == name || (q.columns.size() == 1 && table.columns()[q.columns[0]] == word);
        };
        const auto found = std::find_if(all.begin(), all.end(), is_meant);
        if (found != all.end()) {
            out.push_back(*found);
            continue;
        }
        std::vector<std::string> names;
        std::string known;
        for (const Quantity& q : all) names.push_back(q.name), known += (known.empty() ? "" : ", ") + q.name;
        const std::string near = scene::nearest(word, names);
        throw UsageError(fmt::format("--of: given {}, accepted: some of {}{}", word, known,
                                     near.empty() ? "" : "; did you mean " + near + "?"));
    }
    return out;
}

}
