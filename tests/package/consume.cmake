# Installs the build into a folder beside it and builds, against that alone, the program here.
set(prefix ${BUILD}/package_test/prefix)
set(work ${BUILD}/package_test/build)
file(REMOVE_RECURSE ${BUILD}/package_test)
execute_process(COMMAND ${CMAKE_COMMAND} --install ${BUILD} --prefix ${prefix} OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)
execute_process(COMMAND ${CMAKE_COMMAND} -G Ninja -S ${SOURCE} -B ${work} -DCMAKE_PREFIX_PATH=${prefix}
                        -DCMAKE_CXX_COMPILER=${COMPILER} -DCMAKE_BUILD_TYPE=${TYPE} -DCMAKE_EXPORT_COMPILE_COMMANDS=ON
                OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)
execute_process(COMMAND ${CMAKE_COMMAND} --build ${work} OUTPUT_QUIET COMMAND_ERROR_IS_FATAL ANY)
execute_process(COMMAND ${work}/consumer COMMAND_ERROR_IS_FATAL ANY)
file(STRINGS ${work}/compile_commands.json flags REGEX "ffp-contract=off")
if(NOT flags)
  message(FATAL_ERROR "users of Astasis::core do not get -ffp-contract=off")
endif()
