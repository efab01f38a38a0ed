// Poses and velocities as rows of text: CSV for files, aligned columns for a terminal.
#pragma once

#include "astasis/scene/scene.h"

#include <string>
#include <string_view>
#include <vector>

namespace astasis::record {

// A name as a field of CSV, quoted if need be (RFC 4180).
std::string quoted(const std::string& name);

// "tick,time_s,body,x_m,..." and one line for each body, numbers in their shortest exact form. A turn is an
// angle in the plane and a quaternion in space. Names with a comma or a quote are quoted (RFC 4180).
template<int Dim> std::string csv_head();
template<int Dim> void append_csv(std::string& out, const scene::Made<Dim>& made, std::uint64_t tick);

// The contacts of the last tick: which bodies and shapes, where, the normal from the first to the second,
// separation, and the impulse that the first gave the second in that tick. As CSV, and as a table for a
// terminal.
template<int Dim> std::string contacts_csv(const scene::Made<Dim>& made);
template<int Dim> std::string contacts_table(const scene::Made<Dim>& made);

// The table of one body for a terminal.
template<int Dim> std::string watch_head();
template<int Dim> std::string watch_line(const scene::Made<Dim>& made, const std::string& body);

}
