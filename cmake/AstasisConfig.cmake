# find_package(Astasis) gives the target Astasis::core.
include(${CMAKE_CURRENT_LIST_DIR}/AstasisTargets.cmake)
