// The candidates.
#include "model.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <chrono>

namespace bakeoff {
namespace {

V tangent(V n) { return {-n.y, n.x}; }

// Velocity impulses one after another in substeps: soft contacts, a pass with feedback and one without, the
// points of a manifold several rounds together. As the library has it.
class Substeps : public Method {
public:
    const char* name() const override { return "substeps, impulses in turn"; }
    void tick(Model& m, int effort) override {
        const double h = m.h / effort;
        for (int s = 0; s < effort; s++) {
            begin(m, h);
            warm(m);
            pass(m, h, true);
            advance(m, h);
            pass(m, h, false);
            bounce(m);
        }
    }

protected:
    static constexpr double kShare = 0.3, kLeak = 0.15;
    static void begin(Model& m, double h) {
        for (auto& c : m.contacts)
            for (int i = 0; i < c.count; i++) {
                Point& p = c.point[static_cast<std::size_t>(i)];
                refresh(m, c, p);
                const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                p.approach = p.ln == 0 ? -dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), p.n) : 0;
            }
        for (B& b : m.bodies)
            if (b.im > 0) b.v = b.v + m.gravity * h;
    }
    static void advance(Model& m, double h) {
        for (B& b : m.bodies) b.p = b.p + b.v * h, b.th += b.w * h;
    }
    static void warm(Model& m) {
        for (auto& c : m.contacts)
            for (int i = 0; i < c.count; i++) {
                Point& p = c.point[static_cast<std::size_t>(i)];
                const V j = p.n * p.ln + tangent(p.n) * p.lt;
                push(m.bodies[static_cast<std::size_t>(c.a)], p.ra, j, -1), push(m.bodies[static_cast<std::size_t>(c.b)], p.rb, j, 1);
            }
        for (Pin& p : *m.pins) {
            B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
            push(a, turn(a.th, p.at_a), p.impulse, -1), push(b, turn(b.th, p.at_b), p.impulse, 1);
        }
    }
    static void pass(Model& m, double h, bool feedback) {
        for (Pin& p : *m.pins) {
            B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
            const V ra = turn(a.th, p.at_a), rb = turn(b.th, p.at_b);
            const V gap = (b.p + rb) - (a.p + ra);
            for (const V n : {V{1, 0}, V{0, 1}}) {
                const double mass = mass_along(a, b, ra, rb, n), leak = feedback ? kLeak : 0;
                const double want = feedback ? -kShare * dot(gap, n) / h : 0;
                const double v = dot(velocity_at(b, rb) - velocity_at(a, ra), n), old = dot(p.impulse, n);
                const double d = mass * (1 - leak) * (want - v) - leak * old;
                p.impulse = p.impulse + n * d;
                push(a, ra, n * d, -1), push(b, rb, n * d, 1);
            }
        }
        for (auto& c : m.contacts) {
            B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
            for (int round = 0; round < (c.count > 1 ? 8 : 1); round++) {
                double change = 0, all = 0;
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    double want = 0, leak = 0;
                    if (p.gap > 0) want = -p.gap / h;
                    else if (feedback) want = std::min(-kShare * p.gap / h, 4 * c.thick), leak = kLeak;
                    const double v = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), p.n), old = p.ln;
                    p.ln = std::max(old + mass_along(a, b, p.ra, p.rb, p.n) * (1 - leak) * (want - v) - leak * old, 0.0);
                    push(a, p.ra, p.n * (p.ln - old), -1), push(b, p.rb, p.n * (p.ln - old), 1);
                    change += std::fabs(p.ln - old), all += p.ln;
                }
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    const V t = tangent(p.n);
                    const double v = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), t), old = p.lt;
                    p.lt = std::clamp(old - mass_along(a, b, p.ra, p.rb, t) * v, -c.mu * p.ln, c.mu * p.ln);
                    push(a, p.ra, t * (p.lt - old), -1), push(b, p.rb, t * (p.lt - old), 1);
                }
                if (change <= 1e-3 * all) break;
            }
        }
    }
    static void bounce(Model& m) {
        for (auto& c : m.contacts) {
            if (c.e == 0) continue;
            B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
            for (int round = 0; round < 8; round++)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    if (p.approach < 0.1 || p.ln == 0) continue;
                    const double v = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), p.n), old = p.ln;
                    p.ln = std::max(old + mass_along(a, b, p.ra, p.rb, p.n) * (c.e * p.approach - v), 0.0);
                    push(a, p.ra, p.n * (p.ln - old), -1), push(b, p.rb, p.n * (p.ln - old), 1);
                }
            for (int i = 0; i < c.count; i++)
                if (c.point[static_cast<std::size_t>(i)].approach >= 0.1) c.point[static_cast<std::size_t>(i)].ln = 0;
        }
    }
};

// The same, with more substeps where a heavy body rests on, or hangs from, a light one.
class ByIsland : public Substeps {
public:
    const char* name() const override { return "substeps by mass ratio"; }
    void tick(Model& m, int effort) override {
        double ratio = 1;
        const auto look = [&](int a, int b) {
            const double x = m.bodies[static_cast<std::size_t>(a)].im, y = m.bodies[static_cast<std::size_t>(b)].im;
            if (x > 0 && y > 0) ratio = std::max({ratio, x / y, y / x});
        };
        for (const auto& c : m.contacts) look(c.a, c.b);
        for (const auto& p : *m.pins) look(p.a, p.b);
        int times = 1;
        while (times < 8 && times * times * 16 < ratio) times *= 2;
        Substeps::tick(m, effort * times);
    }
};

// In each substep all impulses at once: the velocities that the stiff contacts allow, by a sparse factorisation,
// over again while points change between apart, sticking and sliding.
class Direct : public Substeps {
public:
    const char* name() const override { return "direct"; }
    void tick(Model& m, int effort) override {
        const double h = m.h / effort;
        for (int s = 0; s < effort; s++) {
            begin(m, h);
            solve(m, h, true);
            advance(m, h);
            solve(m, h, false);
            bounce(m);
        }
    }

private:
    static constexpr double kSoft = 1e-4; // compliance as a share of the inverse mass of a row

    void add(int i, int j, V ri, V rj, V n, double s, double si, double sj) {
        if (place_[static_cast<std::size_t>(i)] < 0 || place_[static_cast<std::size_t>(j)] < 0) return;
        const double gi[3]{si * n.x, si * n.y, si * cross(ri, n)}, gj[3]{sj * n.x, sj * n.y, sj * cross(rj, n)};
        for (int r = 0; r < 3; r++)
            for (int c = 0; c < 3; c++)
                triplets_.emplace_back(3 * place_[static_cast<std::size_t>(i)] + r, 3 * place_[static_cast<std::size_t>(j)] + c, s * gi[r] * gj[c]);
    }
    void row(const Contact* c, int a, int b, V ra, V rb, V n, double stiff, double want) {
        static_cast<void>(c);
        add(a, a, ra, ra, n, stiff, -1, -1), add(b, b, rb, rb, n, stiff, 1, 1);
        add(a, b, ra, rb, n, stiff, -1, 1), add(b, a, rb, ra, n, stiff, 1, -1);
        force(a, ra, n * (-stiff * want)), force(b, rb, n * (stiff * want));
    }
    void force(int i, V r, V f) {
        const int at = place_[static_cast<std::size_t>(i)];
        if (at < 0) return;
        right_[3 * at] += f.x, right_[3 * at + 1] += f.y, right_[3 * at + 2] += cross(r, f);
    }
    void solve(Model& m, double h, bool feedback) {
        place_.assign(m.bodies.size(), -1);
        int n = 0;
        for (std::size_t i = 0; i < m.bodies.size(); i++)
            if (m.bodies[i].im > 0) place_[i] = n++;
        const std::vector<B> before = m.bodies;
        for (int round = 0; round < 12; round++) {
            triplets_.clear();
            right_ = Eigen::VectorXd::Zero(3 * n);
            for (std::size_t i = 0; i < m.bodies.size(); i++) {
                const int at = place_[i];
                if (at < 0) continue;
                const B& b = before[i];
                triplets_.emplace_back(3 * at, 3 * at, 1 / b.im), triplets_.emplace_back(3 * at + 1, 3 * at + 1, 1 / b.im);
                triplets_.emplace_back(3 * at + 2, 3 * at + 2, 1 / b.ii);
                right_[3 * at] = b.v.x / b.im, right_[3 * at + 1] = b.v.y / b.im, right_[3 * at + 2] = b.w / b.ii;
            }
            for (Pin& p : *m.pins) {
                const B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
                const V ra = turn(a.th, p.at_a), rb = turn(b.th, p.at_b), gap = (b.p + rb) - (a.p + ra);
                for (const V d : {V{1, 0}, V{0, 1}})
                    row(nullptr, p.a, p.b, ra, rb, d, mass_along(a, b, ra, rb, d) / kSoft, feedback ? -0.3 * dot(gap, d) / h : 0);
            }
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                    if (round == 0) p.kn = p.gap < 1e-3 ? 1 : 0, p.kt = p.kn; // active; sticking
                    if (p.kn == 0) continue;
                    const double want = p.gap > 0 ? -p.gap / h : feedback ? std::min(-0.3 * p.gap / h, 4 * c.thick) : 0;
                    row(&c, c.a, c.b, p.ra, p.rb, p.n, mass_along(a, b, p.ra, p.rb, p.n) / kSoft, want);
                    const V t = tangent(p.n);
                    if (p.kt > 0) row(&c, c.a, c.b, p.ra, p.rb, t, mass_along(a, b, p.ra, p.rb, t) / kSoft, 0);
                    else force(c.a, p.ra, t * -p.lt), force(c.b, p.rb, t * p.lt);
                }
            Eigen::SparseMatrix<double> k(3 * n, 3 * n);
            k.setFromTriplets(triplets_.begin(), triplets_.end());
            solver_.compute(k);
            const Eigen::VectorXd v = solver_.solve(right_);
            for (std::size_t i = 0; i < m.bodies.size(); i++)
                if (const int at = place_[i]; at >= 0) m.bodies[i].v = {v[3 * at], v[3 * at + 1]}, m.bodies[i].w = v[3 * at + 2];
            bool changed = false;
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                    const V rel = velocity_at(b, p.rb) - velocity_at(a, p.ra), t = tangent(p.n);
                    const double want = p.gap > 0 ? -p.gap / h : feedback ? std::min(-0.3 * p.gap / h, 4 * c.thick) : 0;
                    p.ln = mass_along(a, b, p.ra, p.rb, p.n) / kSoft * (want - dot(rel, p.n));
                    const bool on = p.ln > 0;
                    if (!on) p.ln = 0;
                    if (on != (p.kn > 0)) changed = true;
                    p.kn = on;
                    if (!on) { p.lt = 0, p.kt = 1; continue; }
                    const double stick = -mass_along(a, b, p.ra, p.rb, t) / kSoft * dot(rel, t);
                    const double most = c.mu * p.ln;
                    const bool sticks = on && (p.kt > 0 ? std::fabs(stick) <= most * (1 + 1e-6) : dot(rel, t) * p.lt > 0);
                    if (sticks != (p.kt > 0)) changed = true;
                    if (!sticks) {
                        const double lt = p.kt > 0 ? (stick > 0 ? most : -most) : (dot(rel, t) > 0 ? -most : most);
                        if (std::fabs(lt - p.lt) > 1e-6 * most) changed = true;
                        p.lt = lt;
                    } else p.lt = stick;
                    p.kt = sticks;
                }
            if (!changed) break;
        }
    }
    std::vector<int> place_;
    std::vector<Eigen::Triplet<double>> triplets_;
    Eigen::VectorXd right_;
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver_;
};

// Mueller et al. 2020, Detailed Rigid Body Simulation with Extended Position Based Dynamics: positions are put
// right, velocities follow; one pass a substep.
class Positions : public Method {
public:
    const char* name() const override { return "extended position-based dynamics"; }
    void tick(Model& m, int effort) override {
        const double h = m.h / effort;
        for (int s = 0; s < effort; s++) {
            const std::vector<B> before = m.bodies;
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    refresh(m, c, p);
                    const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                    p.approach = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), p.n), p.ln = p.lt = 0;
                }
            for (B& b : m.bodies) {
                if (b.im > 0) b.v = b.v + m.gravity * h;
                b.p = b.p + b.v * h, b.th += b.w * h;
            }
            for (Pin& p : *m.pins)
                for (const V n : {V{1, 0}, V{0, 1}}) {
                    B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
                    const V ra = turn(a.th, p.at_a), rb = turn(b.th, p.at_b);
                    move(a, b, ra, rb, n, -dot((b.p + rb) - (a.p + ra), n) * mass_along(a, b, ra, rb, n));
                }
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                    refresh(m, c, p);
                    if (p.gap >= 0) continue;
                    const double d = -p.gap * mass_along(a, b, p.ra, p.rb, p.n);
                    p.ln += d, move(a, b, p.ra, p.rb, p.n, d);
                    const B &a0 = before[static_cast<std::size_t>(c.a)], &b0 = before[static_cast<std::size_t>(c.b)];
                    const V t = tangent(p.n);
                    const V now = (b.p + turn(b.th, p.core_b)) - (a.p + turn(a.th, p.core_a));
                    const V was = (b0.p + turn(b0.th, p.core_b)) - (a0.p + turn(a0.th, p.core_a));
                    const double f = -dot(now - was, t) * mass_along(a, b, p.ra, p.rb, t);
                    if (std::fabs(f) < c.mu * p.ln) p.lt = f, move(a, b, p.ra, p.rb, t, f);
                }
            for (std::size_t i = 0; i < m.bodies.size(); i++) {
                B& b = m.bodies[i];
                if (b.im > 0) b.v = (b.p - before[i].p) * (1 / h), b.w = (b.th - before[i].th) / h;
            }
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    if (p.ln == 0) continue;
                    B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
                    refresh(m, c, p);
                    const V t = tangent(p.n);
                    if (p.lt == 0) {
                        const double v = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), t), mass = mass_along(a, b, p.ra, p.rb, t);
                        const double j = std::clamp(-v * mass, -c.mu * p.ln / h, c.mu * p.ln / h);
                        push(a, p.ra, t * j, -1), push(b, p.rb, t * j, 1);
                    }
                    const double v = dot(velocity_at(b, p.rb) - velocity_at(a, p.ra), p.n);
                    const double e = std::fabs(p.approach) > 2 * 9.81 * h ? c.e : 0;
                    const double j = (-v + std::max(-e * p.approach, 0.0)) * mass_along(a, b, p.ra, p.rb, p.n);
                    push(a, p.ra, p.n * j, -1), push(b, p.rb, p.n * j, 1);
                }
        }
    }

private:
    static void move(B& a, B& b, V ra, V rb, V n, double d) {
        a.p = a.p - n * (d * a.im), a.th -= a.ii * cross(ra, n) * d;
        b.p = b.p + n * (d * b.im), b.th += b.ii * cross(rb, n) * d;
    }
};

// Giles, Diaz, Yuksel 2025, Augmented Vertex Block Descent: one small system a body, multipliers and growing
// stiffness for the constraints; a whole tick at once, `effort` rounds.
class Blocks : public Method {
public:
    const char* name() const override { return "augmented vertex block descent"; }
    void tick(Model& m, int effort) override {
        const double h = m.h;
        const std::vector<B> start = m.bodies;
        std::vector<std::vector<std::pair<int, int>>> of(m.bodies.size());
        for (std::size_t c = 0; c < m.contacts.size(); c++) {
            auto& k = m.contacts[c];
            of[static_cast<std::size_t>(k.a)].push_back({static_cast<int>(c), 0}), of[static_cast<std::size_t>(k.b)].push_back({static_cast<int>(c), 1});
            for (int i = 0; i < k.count; i++) {
                Point& p = k.point[static_cast<std::size_t>(i)];
                refresh(m, k, p);
                p.gap0 = p.gap;
                p.fn = p.ln / h * kKeep, p.ft = p.lt / h * kKeep;
                p.kn = std::max(p.kn * kFade, kLeast), p.kt = std::max(p.kt * kFade, kLeast);
            }
        }
        for (std::size_t c = 0; c < m.pins->size(); c++) {
            Pin& p = (*m.pins)[c];
            of[static_cast<std::size_t>(p.a)].push_back({static_cast<int>(c), 2}), of[static_cast<std::size_t>(p.b)].push_back({static_cast<int>(c), 3});
            const B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
            p.gap0 = (b.p + turn(b.th, p.at_b)) - (a.p + turn(a.th, p.at_a));
            p.lambda = p.lambda * kKeep;
            p.k = {std::max(p.k.x * kFade, kLeast), std::max(p.k.y * kFade, kLeast)};
        }
        std::vector<B> wanted = m.bodies;
        for (std::size_t i = 0; i < m.bodies.size(); i++) {
            B &b = m.bodies[i], &y = wanted[i];
            y.p = b.p + b.v * h + (b.im > 0 ? m.gravity * (h * h) : V{}), y.th = b.th + b.w * h;
            b.p = y.p, b.th = y.th;
        }
        for (int round = 0; round < effort; round++) {
            for (std::size_t i = 0; i < m.bodies.size(); i++)
                if (m.bodies[i].im > 0) body(m, start, wanted[i], i, of[i]);
            for (auto& c : m.contacts)
                for (int i = 0; i < c.count; i++) {
                    Point& p = c.point[static_cast<std::size_t>(i)];
                    const auto [cn, ct] = gaps(m, start, c, p);
                    p.fn = std::max(p.fn - p.kn * cn, 0.0);
                    if (p.fn > 0) p.kn += kGrow * std::fabs(cn);
                    const double most = c.mu * p.fn, f = p.ft - p.kt * ct;
                    if (std::fabs(f) < most) p.kt += kGrow * std::fabs(ct);
                    p.ft = std::clamp(f, -most, most);
                }
            for (Pin& p : *m.pins) {
                const V g = gap(m, p);
                p.lambda = p.lambda - V{p.k.x * g.x, p.k.y * g.y};
                p.k = {p.k.x + kGrow * std::fabs(g.x), p.k.y + kGrow * std::fabs(g.y)};
            }
        }
        for (std::size_t i = 0; i < m.bodies.size(); i++)
            if (m.bodies[i].im > 0) m.bodies[i].v = (m.bodies[i].p - start[i].p) * (1 / h), m.bodies[i].w = (m.bodies[i].th - start[i].th) / h;
        for (auto& c : m.contacts)
            for (int i = 0; i < c.count; i++) c.point[static_cast<std::size_t>(i)].ln = c.point[static_cast<std::size_t>(i)].fn * h, c.point[static_cast<std::size_t>(i)].lt = c.point[static_cast<std::size_t>(i)].ft * h;
    }

private:
    // The paper's: alpha and gamma 0.99, beta 1e5.
    static constexpr double kAlpha = 0.99, kFade = 0.99, kKeep = 0.99 * 0.99, kGrow = 1e5, kLeast = 1e3;

    // Linear about the start of the tick, with most of the error of then left for later.
    std::pair<double, double> gaps(const Model& m, const std::vector<B>& start, const Contact& c, const Point& p) const {
        const B &a = m.bodies[static_cast<std::size_t>(c.a)], &b = m.bodies[static_cast<std::size_t>(c.b)];
        const B &a0 = start[static_cast<std::size_t>(c.a)], &b0 = start[static_cast<std::size_t>(c.b)];
        const V da = a.p - a0.p, db = b.p - b0.p, t = tangent(p.n);
        const double ta = a.th - a0.th, tb = b.th - b0.th;
        const auto along = [&](V n) { return dot(db - da, n) + cross(p.rb, n) * tb - cross(p.ra, n) * ta; };
        return {(p.gap0 > 0 ? p.gap0 : p.gap0 * (1 - kAlpha)) + along(p.n), along(t)};
    }
    V gap(const Model& m, const Pin& p) const {
        const B &a = m.bodies[static_cast<std::size_t>(p.a)], &b = m.bodies[static_cast<std::size_t>(p.b)];
        return (b.p + turn(b.th, p.at_b)) - (a.p + turn(a.th, p.at_a)) - p.gap0 * kAlpha;
    }
    void body(Model& m, const std::vector<B>& start, const B& y, std::size_t i, const std::vector<std::pair<int, int>>& rows) {
        B& b = m.bodies[i];
        const double h2 = m.h * m.h;
        Eigen::Matrix3d k = Eigen::Vector3d(1 / b.im / h2, 1 / b.im / h2, 1 / b.ii / h2).asDiagonal();
        Eigen::Vector3d f((y.p.x - b.p.x) / b.im / h2, (y.p.y - b.p.y) / b.im / h2, (y.th - b.th) / b.ii / h2);
        const auto row = [&](V n, V r, double sign, double force, double stiff) {
            const Eigen::Vector3d g(sign * n.x, sign * n.y, sign * cross(r, n));
            f += g * force;
            k += stiff * g * g.transpose();
        };
        for (const auto& [index, side] : rows) {
            const double sign = side % 2 ? 1 : -1;
            if (side < 2) {
                const Contact& c = m.contacts[static_cast<std::size_t>(index)];
                for (int q = 0; q < c.count; q++) {
                    const Point& p = c.point[static_cast<std::size_t>(q)];
                    const auto [cn, ct] = gaps(m, start, c, p);
                    const double fn = p.fn - p.kn * cn;
                    if (fn <= 0) continue;
                    const V r = side ? p.rb : p.ra;
                    row(p.n, r, sign, fn, p.kn);
                    const double most = c.mu * fn, ft = p.ft - p.kt * ct;
                    row(tangent(p.n), r, sign, std::clamp(ft, -most, most), p.kt);
                }
            } else {
                const Pin& p = (*m.pins)[static_cast<std::size_t>(index)];
                const V g = gap(m, p), r = turn(b.th, side == 3 ? p.at_b : p.at_a);
                row({1, 0}, r, sign, p.lambda.x - p.k.x * g.x, p.k.x), row({0, 1}, r, sign, p.lambda.y - p.k.y * g.y, p.k.y);
            }
        }
        const Eigen::Vector3d d = k.ldlt().solve(f);
        b.p = b.p + V{d[0], d[1]}, b.th += d[2];
    }
};

}

std::vector<Method*> methods() {
    static Substeps a;
    static ByIsland b;
    static Direct c;
    static Positions d;
    static Blocks e;
    return {&a, &b, &c, &d, &e};
}

void Sim::step() {
    auto& s = WorldAccess::state(world_);
    s.drive(), s.foresee();
    s.broad.find(s.colliders, s.bodies.motion, s.moving_colliders, s.index, s.pairs);
    s.manifolds.swap(s.manifolds_before);
    s.narrow.find(s.colliders, s.pairs, s.bodies, s.manifolds_before, s.manifolds);

    Model m;
    m.gravity = {s.spec.gravity.x, s.spec.gravity.y};
    for (std::size_t i = 0; i < s.bodies.size(); i++)
        m.bodies.push_back({{s.bodies.pose[i].centre.x, s.bodies.pose[i].centre.y}, angle_of(s.bodies.pose[i].rotation).in_radians(),
                            {s.bodies.velocity[i].linear.x, s.bodies.velocity[i].linear.y}, s.bodies.velocity[i].angular,
                            s.bodies.mass[i].inverse_mass, s.bodies.mass[i].inverse_inertia});
    for (auto& f : s.manifolds) {
        Contact c{static_cast<int>(f.body_a), static_cast<int>(f.body_b), f.count, f.friction, f.restitution, f.thickness, &f, {}};
        for (int i = 0; i < f.count; i++) {
            auto& p = c.point[static_cast<std::size_t>(i)];
            const auto& q = f.points[i];
            p.core_a = {q.core_a.x, q.core_a.y}, p.core_b = {q.core_b.x, q.core_b.y};
            p.skin = f.skin_a + f.skin_b, p.n = {f.normal.x, f.normal.y}, p.local_n = {f.local_normal.x, f.local_normal.y};
            p.guide = static_cast<int>(f.guide);
            // Between ticks: impulse along the normal, along the tangent, and the two stiffnesses.
            p.ln = q.normal_impulse, p.lt = q.friction_impulse.x, p.kn = q.friction_impulse.y, p.kt = q.tick_impulse.x;
        }
        m.contacts.push_back(c);
    }
    if (pins_.size() != ids_.size())
        for (const auto& id : ids_)
            pins_.push_back({static_cast<int>(s.place(id.a)), static_cast<int>(s.place(id.b)), {id.at_a.x, id.at_a.y}, {id.at_b.x, id.at_b.y}, {}, {}, {}, {}});
    m.pins = &pins_;
    const auto begin = std::chrono::steady_clock::now();
    method_.tick(m, effort_);
    seconds_solving += std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    ticks++;
    for (std::size_t i = 0; i < s.bodies.moving; i++) {
        const B& b = m.bodies[i];
        s.bodies.pose[i] = {{b.p.x, b.p.y}, turned(radians(b.th))};
        s.bodies.velocity[i] = {{static_cast<float>(b.v.x), static_cast<float>(b.v.y)}, static_cast<float>(b.w)};
    }
    for (auto& c : m.contacts)
        for (int i = 0; i < c.count; i++) {
            const auto& p = c.point[static_cast<std::size_t>(i)];
            auto& q = c.from->points[i];
            q.normal_impulse = static_cast<float>(p.ln);
            q.friction_impulse = {static_cast<float>(p.lt), static_cast<float>(p.kn)};
            q.tick_impulse = {static_cast<float>(p.kt), 0};
            q.separation = static_cast<float>(p.gap);
        }
    s.arrive(), s.settle();
    s.ticks++;
}

}
