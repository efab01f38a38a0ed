// Quantities that a chart can show of a table: its columns, and what is made of them.
#pragma once

#include "record/table_in.h"

#include <optional>
#include <string>
#include <vector>

namespace astasis::tool {

struct Quantity {
    std::string name, unit;           // "kinetic" and "J"
    std::vector<std::size_t> columns; // one; or the components of a vector, of which it is the length

    // Nothing where a cell is empty. Throws FileError where it is no number.
    std::optional<double> of(const record::TableIn& table, const std::vector<std::string>& cells) const;
};

// The quantities of a list with commas between; of an empty one the energies of a table of measures, else the
// speeds. Throws UsageError for a name that the table does not have.
std::vector<Quantity> quantities_of(const record::TableIn& table, const std::string& list);

}
