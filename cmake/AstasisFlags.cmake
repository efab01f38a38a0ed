# Flags of our own targets: the float rules always, strictness for developers.
function(astasis_flags target)
  # Products and sums are rounded one by one, whatever the processor: the same bits everywhere.
  target_compile_options(${target} PRIVATE -ffp-contract=off)
  # g++ 12's vectorizer of straight-line code gave other last digits in double (free turning, -O2 and -O3) than -O1 and
  # clang do; what pays to be vectorized is written with lanes.
  target_compile_options(${target} PRIVATE $<$<CXX_COMPILER_ID:GNU>:-fno-tree-slp-vectorize>)
  if(ASTASIS_DEVELOPER)
    target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor -Wold-style-cast
                                             -Woverloaded-virtual -Wnull-dereference -Werror)
  endif()
endfunction()

# For what is compiled more often than it runs, or leaves all its work to the library (tests, the tool): about a third
# of such a build's time is saved.
function(astasis_quick_to_compile target)
  if(CMAKE_BUILD_TYPE STREQUAL "Release")
    # Without the later passes g++ 12 takes every variant for uninitialized, and its own strings for null or too short or too long.
    target_compile_options(${target} PRIVATE -O1)
    if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
      target_compile_options(${target} PRIVATE -Wno-maybe-uninitialized -Wno-null-dereference -Wno-array-bounds
                                             -Wno-stringop-overflow)
    endif()
  endif()
endfunction()

# Headers that most files of a target include are read once for all: more than a third of a build's time is saved. A file
# still includes what it uses; scripts/tidy.sh looks at each without this.
set(astasis_standard_headers <algorithm> <array> <cmath> <cstdint> <functional> <map> <memory> <numeric> <optional> <span>
                             <string> <unordered_map> <utility> <variant> <vector>)
function(astasis_read_once target)
  target_precompile_headers(${target} PRIVATE ${astasis_standard_headers} ${ARGN})
endfunction()
