# Configures two small projects with our layering rules: one that keeps them and one that breaks them by a link at
# second hand. The first must configure, the second must not, and must say why.
function(configure name links expected)
  file(REMOVE_RECURSE ${WORK}/${name})
  file(MAKE_DIRECTORY ${WORK}/${name})
  file(WRITE ${WORK}/${name}/CMakeLists.txt
    "cmake_minimum_required(VERSION 3.25)\nproject(t NONE)\ninclude(${MODULE})\n"
    "add_library(nuvat_core INTERFACE)\nadd_library(Qt6::Gui INTERFACE IMPORTED)\n"
    "add_library(nuvat_helper INTERFACE)\nadd_library(nuvat_batch INTERFACE)\n${links}\n"
    "nuvat_assert_no_dependency(nuvat_batch \"Qt6::\")\nnuvat_allow(nuvat_batch nuvat_core)\n")
  execute_process(COMMAND ${CMAKE_COMMAND} -G ${GENERATOR} -S ${WORK}/${name} -B ${WORK}/${name}/build
    RESULT_VARIABLE result OUTPUT_QUIET ERROR_VARIABLE error)
  if(expected STREQUAL "ok" AND NOT result EQUAL 0)
    message(FATAL_ERROR "${name}: an allowed link stopped the configure: ${error}")
  endif()
  if(NOT expected STREQUAL "ok" AND (result EQUAL 0 OR NOT error MATCHES "${expected}"))
    message(FATAL_ERROR "${name}: expected a stop with '${expected}', got ${result}: ${error}")
  endif()
endfunction()

configure(allowed "target_link_libraries(nuvat_batch INTERFACE nuvat_core)" "ok")
configure(qt "target_link_libraries(nuvat_core INTERFACE Qt6::Gui)\ntarget_link_libraries(nuvat_batch INTERFACE nuvat_core)"
  "must not depend on Qt6::Gui")
configure(layer "target_link_libraries(nuvat_batch INTERFACE nuvat_helper)" "must not depend on[ \n]+nuvat_helper")
