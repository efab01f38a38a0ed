// Values as text, for the sentences of errors.
#pragma once

#include "astasis/vec.h"

#include <string>

namespace astasis::base {

std::string number(double value); // the shortest form that reads back the same; nan and inf by name
std::string number(float value);
inline std::string text_of(float value) { return number(value); }

template<int Dim> std::string text_of(Vec<Dim> v) {
    std::string out = "(";
    for (int i = 0; i < Dim; i++) out += (i ? ", " : "") + number(v[i]);
    return out + ")";
}
template<int Dim> std::string text_of(Point<Dim> p) {
    std::string out = "(";
    for (int i = 0; i < Dim; i++) out += (i ? ", " : "") + number(p[i]);
    return out + ")";
}

}
