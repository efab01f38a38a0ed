# Flags of our own targets: the float rules always, strictness for developers.
function(astasis_flags target)
  # Products and sums are rounded one by one, whatever the processor: the same bits everywhere.
  target_compile_options(${target} PRIVATE -ffp-contract=off)
  if(ASTASIS_DEVELOPER)
    target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor -Wold-style-cast
                                             -Woverloaded-virtual -Wnull-dereference -Werror)
  endif()
endfunction()
