# One target carries the flags that the answers depend on; every target of the project links it.
add_library(dardo_flags INTERFACE)
target_compile_features(dardo_flags INTERFACE cxx_std_20)
target_compile_options(dardo_flags INTERFACE
  -ffp-contract=off   # a fused multiply-add changes the last bit, and with it an answer
  -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Wnon-virtual-dtor -Wold-style-cast
  -Wno-missing-field-initializers   # members left out of a designated initialiser have stated defaults
  $<$<CXX_COMPILER_ID:GNU>:-Wno-restrict>   # GCC 12 sees it in std::string where it is not (its bug 105651)
  $<$<BOOL:${DARDO_WARNINGS_AS_ERRORS}>:-Werror>)
if(DARDO_SANITIZE)
  target_compile_options(dardo_flags INTERFACE
    -fsanitize=${DARDO_SANITIZE} -fno-omit-frame-pointer -fno-sanitize-recover=all
    -fno-sanitize=vptr   # asks for type information, which the core is built without
    $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>)   # sees through the instrumentation what is not there
  target_link_options(dardo_flags INTERFACE -fsanitize=${DARDO_SANITIZE})
endif()
if(DARDO_BUILD_FUZZ)
  # The fuzzer sees which ways through the code its inputs take.
  target_compile_options(dardo_flags INTERFACE -fsanitize=fuzzer-no-link)
  target_link_options(dardo_flags INTERFACE -fsanitize=fuzzer-no-link)
endif()

# The core is built as games build it: without exceptions and without run-time type information.
add_library(dardo_core_flags INTERFACE)
target_link_libraries(dardo_core_flags INTERFACE dardo_flags)
target_compile_options(dardo_core_flags INTERFACE -fno-exceptions -fno-rtti)
