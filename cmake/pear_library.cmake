# How our own targets are compiled. Warnings are errors for developers only, so that a newer compiler
# never breaks somebody's build.
add_library(pear_compile_options INTERFACE)
if(PEAR_DEVELOPER)
  target_compile_options(pear_compile_options INTERFACE
    -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Wsign-conversion -Wold-style-cast
    -Wnon-virtual-dtor -Woverloaded-virtual -Werror
    -Wno-restrict)  # GCC 12 sees overlaps in std::string that are not there (GCC bug 105651)
endif()
if(PEAR_SANITIZE)
  # Of undefined behaviour what the address sanitizer does not see as well: checks of every pointer would make the
  # build a third slower.
  set(PEAR_SANITIZERS address,bool,bounds,enum,float-cast-overflow,integer-divide-by-zero,return,shift,signed-integer-overflow,unreachable)
  target_compile_options(pear_compile_options INTERFACE
    -fsanitize=${PEAR_SANITIZERS} -fno-sanitize-recover=all -fno-omit-frame-pointer
    -Wno-maybe-uninitialized)  # GCC takes instrumented std::regex for uninitialized
  target_link_options(pear_compile_options INTERFACE -fsanitize=${PEAR_SANITIZERS})
endif()

# pear_library(NAME SOURCES ... LINK ...): one target per folder of src/; LINK names the folders it may
# include and its packages. scripts/check-includes holds the same arrows and checks every include.
function(pear_library NAME)
  cmake_parse_arguments(ARG "" "" "SOURCES;LINK" ${ARGN})
  add_library(pear_${NAME} STATIC ${ARG_SOURCES})
  target_include_directories(pear_${NAME} PUBLIC ${PROJECT_SOURCE_DIR}/src)
  target_link_libraries(pear_${NAME} PUBLIC ${ARG_LINK} PRIVATE $<BUILD_INTERFACE:pear_compile_options>)
endfunction()
