// One fuzzer: ASTASIS_TARGET is the function that it calls.
#include "fuzz/targets.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    astasis::fuzz::ASTASIS_TARGET({data, size});
    return 0;
}
