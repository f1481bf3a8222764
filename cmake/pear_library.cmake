# How our own targets are compiled. Warnings are errors for developers only, so that a newer compiler
# never breaks somebody's build.
add_library(pear_compile_options INTERFACE)
# GCC collects garbage only above 600 MB: it rarely needs more, and compiles a tenth faster.
target_compile_options(pear_compile_options INTERFACE $<$<CXX_COMPILER_ID:GNU>:--param=ggc-min-heapsize=600000>)
if(PEAR_DEVELOPER)
  target_compile_options(pear_compile_options INTERFACE
    -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Wsign-conversion -Wold-style-cast
    -Wnon-virtual-dtor -Woverloaded-virtual -Werror
    # GCC 12 sees overlaps in std::string that are not there (GCC bug 105651), and takes variables of the date library and
    # of std::regex for uninitialized.
    $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict;-Wno-maybe-uninitialized>)
endif()
if(PEAR_SANITIZE)
  # Of undefined behaviour what the address sanitizer does not see as well: checks of every pointer would make the
  # build a third slower.
  set(PEAR_SANITIZERS address,bool,bounds,enum,float-cast-overflow,integer-divide-by-zero,return,shift,signed-integer-overflow,unreachable)
  target_compile_options(pear_compile_options INTERFACE
    -fsanitize=${PEAR_SANITIZERS} -fno-sanitize-recover=all -fno-omit-frame-pointer)
  target_link_options(pear_compile_options INTERFACE -fsanitize=${PEAR_SANITIZERS})
endif()

# Questions are changed most, and each change compiles all files of a batch. 14, as of the others, takes two thirds of the time
# where everything is compiled.
set(PEAR_QUESTIONS_TOGETHER 5 CACHE STRING "files of questions/ that are compiled as one")

find_program(LLD ld.lld)
if(LLD)  # links in a fifth of the time
  add_link_options(-fuse-ld=lld)
endif()

# Headers of packages that most files include, compiled once for all components (the preset debug does not use them, and
# so reveals a missing include). All components have the flags and definitions of pear_base, and more.
function(pear_precompile_headers NAME)
  if("${NAME}" STREQUAL pear_base)
    target_precompile_headers(pear_base PRIVATE
      <algorithm> <array> <cmath> <cstdint> <functional> <map> <memory> <optional> <set> <span> <string> <string_view> <utility>
      <variant> <vector> <absl/container/flat_hash_map.h> <absl/container/flat_hash_set.h> <fmt/format.h>
      <tbb/enumerable_thread_specific.h> <tbb/parallel_for.h> <tbb/parallel_sort.h> <tl/expected.hpp>)
  else()
    target_precompile_headers(${NAME} REUSE_FROM pear_base)
  endif()
endfunction()

# pear_library(NAME LINK ...): the target of a component, of all .cpp files of its folder in src/ but main.cpp. LINK names
# the components that it may include and its packages. scripts/check-includes holds the same arrows and checks every include.
function(pear_library NAME)
  cmake_parse_arguments(ARG "" "" "LINK" ${ARGN})
  file(GLOB_RECURSE files CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/${NAME}/*.cpp)
  list(FILTER files EXCLUDE REGEX "/main\\.cpp$")
  add_library(pear_${NAME} STATIC ${files})
  target_include_directories(pear_${NAME} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(pear_${NAME} PUBLIC ${ARG_LINK} PRIVATE $<BUILD_INTERFACE:pear_compile_options>)
  pear_precompile_headers(pear_${NAME})
  if("${NAME}" STREQUAL questions)
    set_target_properties(pear_questions PROPERTIES UNITY_BUILD_BATCH_SIZE ${PEAR_QUESTIONS_TOGETHER})
  endif()
endfunction()
