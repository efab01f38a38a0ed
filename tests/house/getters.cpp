// Compiled once for each case; all but CASE_reads must fail.
#include "astasis/astasis.h"

void use(astasis::World2& world, astasis::BodyId id) {
#ifdef CASE_reads
    const auto pose = world.pose(id);
    world.set_pose(id, {{pose.position.x, 1}, pose.rotation});
#elif defined CASE_assigns_pose
    world.pose(id).position = {0, 1};
#elif defined CASE_assigns_component
    world.pose(id).position.y = 1;
#elif defined CASE_assigns_velocity
    world.velocity(id) = {0, 1};
#endif
}
