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
