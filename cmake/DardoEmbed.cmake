# dardo_embed(<target> <name> <file>): compiles a text file into <target> as
# `extern const std::string_view dardo_embedded_<name>`.
function(dardo_embed target name file)
  set(source "${CMAKE_CURRENT_BINARY_DIR}/embedded_${name}.cpp")
  add_custom_command(
    OUTPUT "${source}"
    COMMAND "${CMAKE_COMMAND}" -DNAME=${name} -DINPUT=${file} -DOUTPUT=${source}
            -P "${PROJECT_SOURCE_DIR}/cmake/embed.cmake"
    DEPENDS "${file}" "${PROJECT_SOURCE_DIR}/cmake/embed.cmake"
    VERBATIM)
  # Longer than a compiler has to take; those that are used here do.
  set_source_files_properties("${source}" PROPERTIES
    COMPILE_OPTIONS -Wno-overlength-strings SKIP_UNITY_BUILD_INCLUSION ON)
  target_sources(${target} PRIVATE "${source}")
endfunction()
