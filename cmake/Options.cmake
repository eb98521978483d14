# Compiler settings as two interface targets, so that nothing is set globally.
add_library(nuvat_options INTERFACE)
target_compile_options(nuvat_options INTERFACE
  -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Wsign-conversion -Wold-style-cast
  -Wnon-virtual-dtor -Woverloaded-virtual -Werror
  -Wno-missing-field-initializers) # designated initialisers name what differs from the defaults
# GCC 12 sees overlapping copies in std::string where there are none (its bug 105329).
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU" AND CMAKE_CXX_COMPILER_VERSION VERSION_LESS 13)
  target_compile_options(nuvat_options INTERFACE -Wno-restrict)
endif()
# One rounding everywhere: no fused multiply-add, so that the same batch gives the same digits.
target_compile_options(nuvat_options INTERFACE -ffp-contract=off)
if(NUVAT_COVERAGE)
  target_compile_options(nuvat_options INTERFACE --coverage)
  target_link_options(nuvat_options INTERFACE --coverage)
endif()
if(NUVAT_SANITIZE)
  target_compile_options(nuvat_options INTERFACE -fsanitize=${NUVAT_SANITIZE} -fno-omit-frame-pointer)
  target_link_options(nuvat_options INTERFACE -fsanitize=${NUVAT_SANITIZE})
  if(NUVAT_SANITIZE MATCHES "undefined")
    target_compile_options(nuvat_options INTERFACE -fno-sanitize-recover=undefined)
  endif()
endif()

add_library(nuvat_qt_options INTERFACE)
target_compile_definitions(nuvat_qt_options INTERFACE
  QT_NO_CAST_FROM_ASCII QT_NO_CAST_TO_ASCII QT_NO_NARROWING_CONVERSIONS_IN_CONNECT)
# Not QT_NO_KEYWORDS: the header of the plot library uses the keywords. Our code writes Q_SIGNALS and Q_EMIT.
target_link_libraries(nuvat_qt_options INTERFACE nuvat_options)

# Headers that most files of the window include are compiled once. Only in Debug builds: with optimisation GCC 12 reports
# overflows inside std::string that are not there once headers are precompiled.
function(nuvat_precompile name)
  if(CMAKE_BUILD_TYPE STREQUAL "Debug")
    target_precompile_headers(${name} PRIVATE ${ARGN})
  endif()
endfunction()

# A library of ours: public headers under include/, each of which must compile alone
# (target all_verify_interface_header_sets).
function(nuvat_library name)
  add_library(${name} STATIC)
  file(GLOB_RECURSE headers CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/include/*.h)
  file(GLOB_RECURSE sources CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/src/*.cpp)
  target_sources(${name} PRIVATE ${sources})
  target_sources(${name} PUBLIC FILE_SET HEADERS BASE_DIRS ${CMAKE_CURRENT_SOURCE_DIR}/include FILES ${headers})
  set_target_properties(${name} PROPERTIES VERIFY_INTERFACE_HEADER_SETS ON)
endfunction()
