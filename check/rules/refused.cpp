#include "check/rules.h"

namespace astasis::checks {

const Rule refused_rule{
    "refused", "scenes that the library refuses",
    "Some mistakes are refused when the world is made: a moving body without mass, joints whose anchors are "
    "apart, a\n"
    "concave outline, a grid with a million bodies. The sentence says which field and what is accepted.",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "wall", "at": [0, 2], "shapes": [{"shape": "half-plane"}]}]})",
    R"({"astasis_scene": 1, "dimension": 2, "duration": 2,
 "bodies": [
  {"name": "floor", "motion": "static", "shapes": [{"shape": "half-plane"}]},
  {"name": "crate", "at": [0, 2], "shapes": [{"shape": "box", "size": [1, 1]}]}]})"};

}
