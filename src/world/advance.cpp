#include "world/advance.h"

#include "base/room.h"
#include "math/numbers.h"

#include <algorithm>
#include <cmath>

namespace astasis {
namespace {

using islands::Treatment;

// As many contacts as a pair has but rarely.
constexpr std::size_t kFew = 64;

float compliance_of(float softness) { return softness / (1 - softness); }
float softness_of(float compliance) { return compliance / (1 + compliance); }

// More substeps make contacts stiffer by their square. Correction and compliance are lowered a little with
// them: as they are for the world's own substeps, 1:10000 bursts; in proportion to the substep, heaps of
// tubes never rest (docs/decisions/loads.md).
float less_at(int level) { return std::sqrt(std::sqrt(std::ldexp(1.0f, -level))); }

}

template<int Dim> void Advance<Dim>::reserve(const flow::Bodies<Dim>& bodies, std::size_t manifolds) {
    base::make_room(candidates_, manifolds);
    base::make_room(hit_manifolds_, 2 * manifolds);
    base::make_room(softness_, manifolds);
    base::make_room(manifolds_by_, manifolds);
    for (auto* v : {&bodies_, &bodies_by_}) base::make_room(*v, bodies.moving);
    base::make_room(kinematic_, bodies.moving);
    for (auto* v : {&lively_, &updated_, &swept_hits_, &passed_, &its_manifolds_, &pair_, &near_, &swept_})
        base::make_room(*v, manifolds + bodies.moving);
    for (auto* v : {&found_, &found_again_, &to_passes_})
        base::make_room(*v, flow::kMostPoints<Dim> * (manifolds + 2 * bodies.moving));
    for (auto* v : {&before_, &after_}) base::make_room(*v, kFew);
    base::make_room(stops_, bodies.moving), base::make_room(ending_, bodies.moving);
    base::make_room(gained_, bodies.size());
    base::make_room(inverse_inertia_, bodies.size());
}

// Makes room for the columns by manifold, with manifolds that are added within the tick.
template<int Dim> void Advance<Dim>::make_room_for_added(std::size_t manifolds) {
    for (auto* v : {&found_at_, &found_gap_, &due_}) base::make_room(*v, manifolds);
    base::make_room(is_lively_, manifolds), base::make_room(swept_at_, manifolds);
    base::make_room(looked_in_, manifolds), base::make_room(swept_in_, manifolds);
    base::make_room(merge_room_.tail, manifolds / 4), base::make_room(merge_room_.order, manifolds / 4);
}

// Bodies and manifolds by the level of their islands, in their order: a counting sort.
template<int Dim> void Advance<Dim>::sort(const flow::Bodies<Dim>& bodies) {
    const auto of_body = [&](std::uint32_t i) { return std::size_t{islands_.treatment_of(i).level}; };
    const auto pushed = [&](std::uint32_t i) { return bodies.mass[i].inverse_mass > 0; };
    const auto of_manifold = [&](std::uint32_t k) {
        return of_body(pushed(edges_[k].body_a) ? edges_[k].body_a : edges_[k].body_b);
    };
    const auto sort_by = [](std::uint32_t count, const auto& is_in, const auto& number, auto& first,
                            std::vector<std::uint32_t>& out) {
        first.fill(0);
        for (std::uint32_t i = 0; i < count; i++)
            if (is_in(i)) first[number(i) + 1]++;
        for (std::size_t t = 1; t < first.size(); t++) first[t] += first[t - 1];
        auto next = first;
        out.resize(first.back());
        for (std::uint32_t i = 0; i < count; i++)
            if (is_in(i)) out[next[number(i)]++] = i;
    };
    sort_by(static_cast<std::uint32_t>(bodies.moving), pushed, of_body, first_body_, bodies_by_);
    sort_by(
        static_cast<std::uint32_t>(edges_.size()), [](std::uint32_t) { return true; }, of_manifold,
        first_manifold_, manifolds_by_);
}

// Contacts that would give way too much are made firmer before their islands want more substeps.
template<int Dim>
void Advance<Dim>::treat(const solve::Tuning& tuning, const flow::Bodies<Dim>& bodies,
                         std::span<flow::Manifold<Dim>> manifolds) {
    softness_.resize(manifolds.size());
    for (std::size_t k = 0; k < manifolds.size(); k++) {
        auto& m = manifolds[k];
        const flow::Edge& e = edges_[k];
        const Treatment& t =
            islands_.treatment_of(bodies.mass[e.body_a].inverse_mass > 0 ? e.body_a : e.body_b);
        m.exact = t.exact && !m.is_bounded(), m.unconverged = t.unconverged, m.passed_by = false;
        const float softness = t.firm ? std::min(tuning.softness, islands::kFirmSoftness) : tuning.softness;
        softness_[k] = softness_of(compliance_of(softness) * less_at(t.level));
    }
}

template<int Dim> void Advance<Dim>::find_joint_edges(const Surroundings<Dim>& around) {
    joint_edges_.clear();
    base::make_room(joint_edges_, around.active_joints.size() + around.field_edges.size());
    for (const std::uint32_t j : around.active_joints) {
        const flow::Joint<Dim>& joint = (*around.joints)[j];
        joint_edges_.push_back({joint.body_a, joint.body_b});
    }
    joint_edges_.insert(joint_edges_.end(), around.field_edges.begin(), around.field_edges.end());
}

// A pull F at an arm r turns a body towards it like a spring of stiffness F r. Substeps follow while the
// square of the turn in one, F r h^2 / I, stays well below 4: what bears more than some hundred times its own
// weight wants more of them.
template<int Dim>
void Advance<Dim>::want_levels_of_joints(const AdvanceSettings<Dim>& settings,
                                         const Surroundings<Dim>& around, const flow::Bodies<Dim>& bodies) {
    constexpr float kMostTurn = 1.5f, kMostSpin = 0.15f; // rad
    if (around.active_joints.empty()) return;
    base::make_room(pulls_, bodies.size());
    pulls_.resize(bodies.size());
    const auto for_ends = [&](const auto& visit) {
        for (const std::uint32_t j : around.active_joints) {
            const flow::Joint<Dim>& joint = (*around.joints)[j];
            const auto moves = [&](std::uint32_t i) {
                return i < bodies.moving && bodies.mass[i].inverse_mass > 0;
            };
            if (moves(joint.body_a)) visit(joint, joint.body_a, joint.at_a);
            if (moves(joint.body_b)) visit(joint, joint.body_b, joint.at_b);
        }
    };
    for_ends([&](const auto&, std::uint32_t i, const Vec<Dim>&) { pulls_[i] = 0; });
    for_ends([&](const auto& joint, std::uint32_t i, const Vec<Dim>& at) {
        pulls_[i] += length(joint.force) * length(at);
    });
    const auto h = static_cast<float>(settings.tick / settings.substeps);
    for_ends([&](const auto&, std::uint32_t i, const Vec<Dim>&) {
        // Half the trace is the inertia of a rod across its axis.
        const float inertia = (Dim == 2 ? 1.0f : 0.5f) * math::trace(bodies.mass[i].inertia);
        if (!(inertia > 0)) return;
        int level = 0;
        for (float turn = pulls_[i] * h * h / inertia; level < islands::kMostLevel && turn > kMostTurn;
             level++)
            turn *= 0.25f;
        for (float turn = std::ldexp(math::magnitude(bodies.velocity[i].angular) * h, -level);
             level < islands::kMostLevel && turn > kMostSpin; level++)
            turn *= 0.5f;
        islands_.want_level(i, level);
    });
}

template<int Dim>
void Advance<Dim>::sort_joints(const Surroundings<Dim>& around, const flow::Bodies<Dim>& bodies) {
    for (auto& joints : joints_by_) joints.clear();
    for (auto& further : further_by_) further.clear();
    for (const std::uint32_t j : around.active_joints) {
        const flow::Joint<Dim>& joint = (*around.joints)[j];
        const bool a = joint.body_a < bodies.moving && bodies.mass[joint.body_a].inverse_mass > 0;
        const auto& treatment = islands_.treatment_of(a ? joint.body_a : joint.body_b);
        joints_by_[treatment.level].push_back(j),
            further_by_[treatment.level].push_back(treatment.unconverged);
    }
}

// Takes over the bodies and manifolds of a level, with the kinematic bodies that these touch or are joined
// to.
template<int Dim>
void Advance<Dim>::begin(std::size_t level, const Surroundings<Dim>& around,
                         const flow::Bodies<Dim>& bodies) {
    bodies_.clear(), kinematic_.clear();
    const auto take = [&](std::uint32_t i) {
        bodies_.push_back(i);
        rows_[i] = static_cast<std::uint32_t>(bodies_.size());
    };
    for (std::uint32_t n = first_body_[level]; n < first_body_[level + 1]; n++) take(bodies_by_[n]);
    manifolds_ = std::span<const std::uint32_t>(manifolds_by_)
                     .subspan(first_manifold_[level], first_manifold_[level + 1] - first_manifold_[level]);
    const auto take_kinematic = [&](std::uint32_t i) {
        if (i >= bodies.moving || bodies.mass[i].inverse_mass > 0 || rows_[i] != 0) return;
        take(i);
        kinematic_.push_back({i, bodies.pose[i], bodies.velocity[i], bodies.remainder[i]});
    };
    for (const std::uint32_t k : manifolds_)
        take_kinematic(edges_[k].body_a), take_kinematic(edges_[k].body_b);
    for (const std::uint32_t j : joints_by_[level]) {
        const flow::Joint<Dim>& joint = (*around.joints)[j];
        take_kinematic(joint.body_a), take_kinematic(joint.body_b);
    }
    for (const std::uint32_t i : around.field_sources) take_kinematic(i);
}

// Kinematic bodies go back to where they began, for the other levels, whose bodies have no rows here.
template<int Dim> void Advance<Dim>::end(flow::Bodies<Dim>& bodies) {
    for (const Kinematic& k : kinematic_) {
        bodies.pose[k.body] = k.pose;
        bodies.velocity[k.body] = k.velocity, bodies.remainder[k.body] = k.remainder;
    }
    for (const std::uint32_t i : bodies_) rows_[i] = 0;
}

template<int Dim>
void Advance<Dim>::advance(const AdvanceSettings<Dim>& settings, const Surroundings<Dim>& around,
                           flow::Bodies<Dim>& bodies, std::vector<flow::Manifold<Dim>>& manifolds,
                           std::vector<std::uint32_t>& claims) {
    finder_.set_look_at(around.look_at);
    const float compliance = compliance_of(settings.tuning.softness) / settings.tuning.correction;
    reserve(bodies, manifolds.size());
    base::make_room(edges_, manifolds.size());
    flow::find_edges<Dim>(manifolds, edges_);
    lists_.find(bodies, edges_);
    find_joint_edges(around);
    islands_.find(bodies, manifolds, edges_, lists_, settings.gravity, static_cast<float>(settings.tick),
                  settings.substeps, compliance, joint_edges_, around.active_joints.size());
    want_levels_of_joints(settings, around, bodies);
    islands_.decide(bodies, edges_, settings.substeps, settings.extra_work, budget_, claims);
    impacts_.begin_tick(bodies, edges_);
    sort(bodies), sort_joints(around, bodies);
    treat(settings.tuning, bodies, manifolds);
    flow::begin_column(rows_, bodies, edges_, 0);
    for (const std::uint32_t i : around.field_sources) rows_[i] = 0;
    for (const flow::JointEdge& e : joint_edges_) {
        rows_[e.body_a] = 0;
        if (e.body_b != flow::kWorld) rows_[e.body_b] = 0;
    }
    swept_meetings_.clear(), strikes_.clear();
    motor_work_ = field_work_ = hook_work_ = 0;
    sorted_manifolds_ = manifolds.size();
    any_passed_ = out_of_sweeps_ = false;
    base::make_room(manifolds, manifolds.size() + 2 * bodies.moving);
    make_room_for_added(manifolds.size() + 2 * bodies.moving);
    found_at_.assign(manifolds.size(), 0), due_.assign(manifolds.size(), 0),
        swept_at_.resize(manifolds.size());
    is_lively_.assign(manifolds.size(), 0), found_gap_.clear();
    for (const flow::Edge& e : edges_) found_gap_.push_back(e.nearest);
    for (int level = islands::kMostLevel; level >= 0; level--) {
        const auto t = static_cast<std::size_t>(level);
        if (first_body_[t] == first_body_[t + 1]) continue;
        begin(t, around, bodies);
        looked_in_.assign(manifolds.size(), 0), swept_in_.assign(manifolds.size(), 0);
        run({settings,
             around,
             bodies,
             manifolds,
             {bodies, manifolds, edges_, manifolds_, rows_, bodies_.size() + 1, islands_.known_loads(),
              softness_, settings.gravity}},
            level);
        end(bodies);
    }
    // Those that went past each other and gave nothing are no more.
    const auto is_gone = [](const auto& m) {
        return m.passed_by && std::all_of(m.points.begin(), m.points.begin() + m.count,
                                          [](const auto& p) { return p.tick_impulse == Vec<Dim>{}; });
    };
    const auto at = [&](std::size_t n) { return manifolds.begin() + static_cast<std::ptrdiff_t>(n); };
    if (any_passed_) {
        manifolds.erase(std::remove_if(at(sorted_manifolds_), manifolds.end(), is_gone), manifolds.end());
        const auto kept = std::remove_if(manifolds.begin(), at(sorted_manifolds_), is_gone);
        const auto first_added = manifolds.erase(kept, at(sorted_manifolds_));
        sorted_manifolds_ = static_cast<std::size_t>(first_added - manifolds.begin());
    }
    const auto by_keys = [](const auto& p, const auto& q) {
        return p.key_a != q.key_a ? p.key_a < q.key_a : p.key_b < q.key_b;
    };
    base::merge_tail(manifolds, sorted_manifolds_, merge_room_, by_keys);
    for (auto* list : {&swept_meetings_, &strikes_})
        base::merge_tail(*list, 0, meetings_room_,
                         [](const auto& p, const auto& q) { return p.time < q.time; });
}

template<int Dim> void Advance<Dim>::run(Run run, int level) {
    const int substeps = run.settings.substeps << level;
    run.seconds = run.settings.tick / substeps;
    solve::Tuning tuning = run.settings.tuning;
    tuning.correction *= less_at(level);
    integrator_.begin(run.bodies, bodies_, run.settings.gravity, run.seconds, run.settings.accelerations);
    contacts_.begin(run.input, tuning, static_cast<float>(run.seconds));
    begin_contacts(run);
    pass_hits_.clear();
    const auto t = static_cast<std::size_t>(level);
    const bool has_joints = !joints_by_[t].empty();
    solve::JointSolver<Dim>& joints = joints_[t];
    if (has_joints)
        joints.begin_tick(*run.around.joints, joints_by_[t], further_by_[t], run.bodies, rows_, integrator_,
                          run.seconds);
    const bool has_fields = run.around.fields != nullptr;
    if (has_fields)
        fields_.begin_tick(*run.around.fields, run.bodies, bodies_, rows_, integrator_, run.seconds);
    for (; run.substep < substeps; run.substep++) {
        if (run.around.before_substep)
            run.around.before_substep(integrator_, bodies_, rows_, run.time(), run.seconds);
        integrator_.advance_velocities(run.bodies);
        if (has_joints) joints.begin(integrator_);
        contacts_.refresh(integrator_.rows(), found_);
        update_contacts(run);
        candidates_.clear(), to_passes_.clear();
        contacts_.classify(run.manifolds, found_, &candidates_, to_passes(run));
        for (const std::uint32_t k : swept_hits_) candidates_.push_back({k, 0});
        resolved_ = !candidates_.empty() || !ending_.empty();
        if (resolved_) resolve_impacts(run);
        if (!to_passes_.empty()) note_pass_hits(run);
        const solve::BodyRows rows = integrator_.rows();
        contacts_.warm_start(rows);
        contacts_.solve(rows, solve::Pass::Correcting);
        stop_short(run);
        if (resolved_)
            for (const std::uint32_t i : impacts_.moved())
                if (follows_leg(run, i)) stop(run, i, run.seconds, leg(run, i).at(run.seconds));
        for (Stop& s : stops_) s.velocity = integrator_.velocity(s.row);
        integrator_.advance_poses(run.bodies);
        for (const Stop& s : stops_) integrator_.stop(run.bodies, s.row, s.pose, s.velocity, s.time);
        if (has_joints) joints.correct(run.bodies, integrator_);
        if (has_fields) fields_.end(run.bodies, integrator_, run.substep);
        contacts_.solve(rows, solve::Pass::Plain);
        if (has_joints) joints.settle(integrator_, true);
        if (contacts_.has_unconverged())
            for (int pass = islands::kPlainPasses; pass < islands::kUnconvergedPasses; pass++) {
                contacts_.solve(rows, solve::Pass::Further);
                if (has_joints) joints.settle(integrator_, false);
            }
        if (has_joints) joints.end();
        if (!pass_hits_.empty()) tell_pass_hits(run);
    }
    if (has_joints) joints.end_tick(*run.around.joints, substeps), motor_work_ += joints.motor_work();
    if (has_fields) field_work_ += fields_.work();
    hook_work_ += integrator_.given_work();
    integrator_.show(run.bodies);
    contacts_.end(run.manifolds);
}

// Impacts work on the columns of bodies and on the manifolds; they are few.
template<int Dim> void Advance<Dim>::resolve_impacts(Run& run) {
    auto& bodies = run.bodies;
    gained_.resize(bodies.size()), inverse_inertia_.resize(bodies.size());
    const auto enter_body = [&](std::uint32_t i) {
        const std::size_t row = rows_[i];
        gained_[i] = integrator_.gained(row), inverse_inertia_[i] = integrator_.inverse_inertia(row);
        if (row > 0) integrator_.show(bodies, row);
    };
    const auto enter_contact = [&](std::uint32_t k) { contacts_.give_forces(run.manifolds[k], k); };
    const auto after_hit = [&](std::uint32_t i, float time) {
        if (rows_[i] == 0) return;
        const auto at = static_cast<double>(time);
        if (!impacts_.is_stopped(i)) ends_in_[rows_[i]] = 0;
        else if (!is_stopped(run, rows_[i])) stop(run, i, at, leg(run, i).at(at));
        if (run.around.index != nullptr && (is_stopped(run, rows_[i]) || has_strayed(run, i)))
            look_around(run, i, static_cast<double>(time));
        if (is_swept(run, rows_[i])) mark_swept(rows_[i]);
        sweep(run, i, static_cast<double>(time));
    };
    const auto swept = [&](std::uint32_t k) { return swept_in_[k] == run.stamp() ? &swept_at_[k] : nullptr; };
    const auto path_end = [&](std::uint32_t i) { return path_end_of(run, i); };
    const auto buy = [&](std::uint64_t rounds) { return budget_.buy_iterations(rounds); };
    resolving_ = true;
    const bool moved = impacts_.resolve(
        bodies, run.manifolds, gained_, inverse_inertia_, lists_, static_cast<float>(run.seconds),
        candidates_, {enter_body, enter_contact, swept, path_end, ending_, after_hit, buy});
    resolving_ = false;
    block_unmet(run);
    if (!moved) return;
    list_swept_meetings(run);
    hit_manifolds_.clear();
    for (const std::uint32_t i : impacts_.moved()) {
        if (!(bodies.mass[i].inverse_mass > 0)) continue;
        integrator_.redirect(bodies, rows_[i], bodies.velocity[i], impacts_.start(bodies, i, bodies.pose[i]),
                             impacts_.on_path(i));
        lists_.for_each(i, [&](std::uint32_t k) { hit_manifolds_.push_back(k); });
    }
    end_swept_hits(run);
    if (!to_passes_.empty()) { // they come on otherwise now
        std::sort(hit_manifolds_.begin(), hit_manifolds_.end());
        std::erase_if(to_passes_, [&](const auto& f) {
            return std::binary_search(hit_manifolds_.begin(), hit_manifolds_.end(), f.manifold);
        });
    }
    contacts_.refresh_some(integrator_.rows(), hit_manifolds_, found_);
    contacts_.classify(run.manifolds, found_, nullptr, to_passes(run));
}

template class Advance<2>;
template class Advance<3>;

}
