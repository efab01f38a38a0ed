#include "math/locks.h"

namespace astasis::math {

Vec3 unlocked_turn(Vec3 spin, const Locks<3>& locks) {
    return {locks.turn_x ? 0 : spin.x, locks.turn_y ? 0 : spin.y, locks.turn_z ? 0 : spin.z};
}

// A locked axis that has nothing to do with the others leaves their inverse alone; its own is then made zero.
Sym3 inverse_where_free(const Sym3& inertia, const Locks<3>& locks) {
    Sym3 free = inertia;
    if (locks.turn_x) free.xx = 1, free.xy = free.xz = 0;
    if (locks.turn_y) free.yy = 1, free.xy = free.yz = 0;
    if (locks.turn_z) free.zz = 1, free.xz = free.yz = 0;
    Sym3 out = inertia == Sym3{} ? Sym3{} : inverse(free);
    if (locks.turn_x) out.xx = 0;
    if (locks.turn_y) out.yy = 0;
    if (locks.turn_z) out.zz = 0;
    return out;
}

}
