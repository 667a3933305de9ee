# SPDX-License-Identifier: Apache-2.0
# One folder, one target. Its headers can be included as <fell/<folder>/<header>.h> by itself and by those that name
# it under USES, and by nobody else: each target has an include folder of its own that holds one link, to itself.
# So an include against the order of the folders does not find its file.

add_library(fell_options INTERFACE)
target_compile_options(fell_options INTERFACE
  -Wall -Wextra -Wpedantic -Wshadow -Wnon-virtual-dtor -Woverloaded-virtual -Wcast-align -Wunused
  -Werror
  $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>  # GCC 12 sees it in its own std::string (its bug 105651)
  # GCC collects its garbage less often: a tenth of the compile time, for at most 0.8 GB a compiler.
  $<$<AND:$<CXX_COMPILER_ID:GNU>,$<CONFIG:Release>>:--param=ggc-min-heapsize=600000>
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

# Compiles the sources of a target in batches of `size`, so that shared headers are parsed once per batch. Turn
# FELL_UNITY off while one file is edited again and again. Not for the folders whose inner loops are measured: there the
# compiler's choices must not depend on which files share a batch.
option(FELL_UNITY "compile sources that are not hot in batches" ON)
function(fell_unity target size)
  set_target_properties(${target} PROPERTIES UNITY_BUILD ${FELL_UNITY} UNITY_BUILD_BATCH_SIZE ${size})
endfunction()

# UNITY: this folder is not hot, so it may be compiled in batches. COLD: the sources of a hot folder that are not.
function(fell_folder name)
  cmake_parse_arguments(ARG "UNITY" "" "SOURCES;COLD;USES;LINKS" ${ARGN})
  set(view ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${view}/fell)
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${view}/fell/${name} SYMBOLIC)
  add_library(fell_${name} STATIC ${ARG_SOURCES})
  target_include_directories(fell_${name} PUBLIC ${view} ${CMAKE_BINARY_DIR}/include/all)
  if(ARG_UNITY)
    fell_unity(fell_${name} 8)
    target_compile_options(fell_${name} PRIVATE $<$<CONFIG:Release>:-O2>) # a third less compile time than -O3
  endif()
  if(ARG_COLD)
    add_library(fell_${name}_cold OBJECT ${ARG_COLD})
    fell_unity(fell_${name}_cold 8)
    target_compile_options(fell_${name}_cold PRIVATE $<$<CONFIG:Release>:-O1>)
    target_include_directories(fell_${name}_cold PRIVATE $<TARGET_PROPERTY:fell_${name},INCLUDE_DIRECTORIES>)
    target_link_libraries(fell_${name}_cold PRIVATE ${ARG_LINKS} fell_options)
    foreach(below ${ARG_USES})
      target_link_libraries(fell_${name}_cold PRIVATE fell_${below})
    endforeach()
    target_sources(fell_${name} PRIVATE $<TARGET_OBJECTS:fell_${name}_cold>)
  endif()
  foreach(below ${ARG_USES})
    target_link_libraries(fell_${name} PUBLIC fell_${below})
  endforeach()
  target_link_libraries(fell_${name} PUBLIC ${ARG_LINKS} PRIVATE fell_options)
endfunction()
