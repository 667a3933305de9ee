# SPDX-License-Identifier: Apache-2.0
# One folder, one target. Its headers can be included as "<folder>/<header>.h" by itself and by those that name
# it under USES, and by nobody else: each target has an include folder of its own that holds one link, to itself.
# So an include against the order of the folders does not find its file.

add_library(fell_options INTERFACE)
target_compile_options(fell_options INTERFACE
  -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor -Woverloaded-virtual -Wcast-align -Wunused
  -Werror
  $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>  # GCC 12 sees it in its own std::string (its bug 105651)
  # The same seed must give the same voxels on every machine: no fused multiply-add where it happens to exist.
  -ffp-contract=off)
if(FELL_SANITIZE)
  # Null pointers fault by themselves; to have them checked as well is a fifth of the compile time.
  target_compile_options(fell_options INTERFACE -fsanitize=${FELL_SANITIZE} -fno-sanitize=null -fno-omit-frame-pointer -fno-sanitize-recover=all
    $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>)  # the sanitizers' own checks confuse it
  target_link_options(fell_options INTERFACE -fsanitize=${FELL_SANITIZE})
endif()

if(FELL_FUZZ)
  target_compile_options(fell_options INTERFACE -fsanitize=fuzzer-no-link)
endif()

function(fell_folder name)
  cmake_parse_arguments(ARG "" "" "SOURCES;USES;LINKS" ${ARGN})
  set(view ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${view})
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${view}/${name} SYMBOLIC)
  add_library(fell_${name} STATIC ${ARG_SOURCES})
  target_include_directories(fell_${name} PUBLIC ${view})
  foreach(below ${ARG_USES})
    target_link_libraries(fell_${name} PUBLIC fell_${below})
  endforeach()
  target_link_libraries(fell_${name} PUBLIC ${ARG_LINKS} PRIVATE fell_options)
endfunction()
