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
    # Without the later passes g++ 12 takes every variant for uninitialized, and pointers of its own strings for null.
    target_compile_options(${target} PRIVATE -O1 $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized> $<$<CXX_COMPILER_ID:GNU>:-Wno-null-dereference>)
  endif()
endfunction()
