# Installs the build into a folder beside it and builds, against that alone, the programs here: one with the core, which
# needs no package, and, if there is more than the core, one that reads a scene.
set(prefix ${BUILD}/package_test/prefix)
set(work ${BUILD}/package_test/build)
file(REMOVE_RECURSE ${BUILD}/package_test)
execute_process(COMMAND ${CMAKE_COMMAND} --install ${BUILD} --prefix ${prefix} OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)

function(consume source to)
  execute_process(COMMAND ${CMAKE_COMMAND} -G Ninja -S ${source} -B ${to} -DCMAKE_PREFIX_PATH=${prefix}
                          -DCMAKE_CXX_COMPILER=${COMPILER} -DCMAKE_BUILD_TYPE=${TYPE} -DCMAKE_EXPORT_COMPILE_COMMANDS=ON
                          ${ARGN}
                  OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)
  execute_process(COMMAND ${CMAKE_COMMAND} --build ${to} OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)
endfunction()

consume(${SOURCE} ${work} -DCMAKE_DISABLE_FIND_PACKAGE_fmt=ON -DCMAKE_DISABLE_FIND_PACKAGE_nlohmann_json=ON)
execute_process(COMMAND ${work}/consumer COMMAND_ERROR_IS_FATAL ANY)
file(STRINGS ${work}/compile_commands.json flags REGEX "ffp-contract=off")
if(NOT flags)
  message(FATAL_ERROR "users of Astasis::core do not get -ffp-contract=off")
endif()
if(SCENE)
  consume(${SOURCE}/scene ${work}_scene)
  execute_process(COMMAND ${work}_scene/consumer ${SCENE} COMMAND_ERROR_IS_FATAL ANY)
endif()
