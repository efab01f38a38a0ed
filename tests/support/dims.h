// One test body over both dimensions.
#pragma once

#include "support/scenes.h"

#include <gtest/gtest.h>

#include <type_traits>

namespace astasis::test {

template<typename T> class BothDimensions : public ::testing::Test {
public:
    static constexpr int kDim = T::value;
};
using Dimensions = ::testing::Types<std::integral_constant<int, 2>, std::integral_constant<int, 3>>;

// The Error that a call throws; a failure if it throws none. The message must hold all three parts.
template<typename Call> Error error_of(const Call& call) {
    try {
        call();
    } catch (const Error& e) {
        const std::string what = e.what();
        EXPECT_NE(what.find(e.field()), std::string::npos);
        EXPECT_NE(what.find(e.given()), std::string::npos);
        EXPECT_NE(what.find(e.accepted()), std::string::npos);
        return e;
    }
    ADD_FAILURE() << "nothing was thrown";
    return {"", "", ""};
}

}
