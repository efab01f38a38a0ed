// A reference to something that can be called: no allocation, no copy. What it refers to must outlive it.
#pragma once

#include <type_traits>
#include <utility>

namespace astasis {

template<typename Signature> class FunctionRef;

template<typename Result, typename... Args> class FunctionRef<Result(Args...)> {
public:
    FunctionRef() = default; // refers to nothing
    // Not explicit, so that lambdas pass.
    template<typename F>
    requires(!std::is_same_v<std::remove_cvref_t<F>, FunctionRef> &&
             std::is_invocable_r_v<Result, F&, Args...>) FunctionRef(F&& f) // NOLINT
        : what_(const_cast<void*>(static_cast<const void*>(&f))), call_(&call<std::remove_reference_t<F>>) {}
    explicit operator bool() const { return call_ != nullptr; }
    Result operator()(Args... args) const { return call_(what_, std::forward<Args>(args)...); }

private:
    template<typename F> static Result call(void* what, Args... args) {
        return (*static_cast<F*>(what))(std::forward<Args>(args)...);
    }
    void* what_ = nullptr;
    Result (*call_)(void*, Args...) = nullptr;
};

}
