include(CMakePackageConfigHelpers)

set(dardo_cmake_dir "${CMAKE_INSTALL_LIBDIR}/cmake/dardo")
set(dardo_targets dardo_core dardo_flags dardo_core_flags)
if(DARDO_BUILD_BATCH)
  list(APPEND dardo_targets dardo_batch)
endif()
if(DARDO_BUILD_IO)
  list(APPEND dardo_targets dardo_io)
endif()
if(DARDO_BUILD_DRAW)
  list(APPEND dardo_targets dardo_draw)
endif()
install(TARGETS ${dardo_targets} EXPORT dardo-targets
  ARCHIVE DESTINATION "${CMAKE_INSTALL_LIBDIR}"
  LIBRARY DESTINATION "${CMAKE_INSTALL_LIBDIR}")
install(EXPORT dardo-targets NAMESPACE dardo:: DESTINATION "${dardo_cmake_dir}")
install(DIRECTORY include/dardo DESTINATION "${CMAKE_INSTALL_INCLUDEDIR}")
install(DIRECTORY schemas scenes DESTINATION "${CMAKE_INSTALL_DATADIR}/dardo")
install(FILES src/io/messages.json DESTINATION "${CMAKE_INSTALL_DATADIR}/dardo")
if(DARDO_BUILD_CLI)
  install(TARGETS dardo_program RUNTIME DESTINATION "${CMAKE_INSTALL_BINDIR}")
  if(DARDO_HAS_VIEWER)
    # For `io::report_page`.
    install(FILES "${DARDO_VIEWER_PAGE}" DESTINATION "${CMAKE_INSTALL_DATADIR}/dardo")
  endif()
endif()

# All that is installed, and nothing else: what has been built of the project can then be installed.
add_custom_target(dardo_installed)
foreach(target ${dardo_targets})
  get_target_property(kind ${target} TYPE)
  if(NOT kind STREQUAL "INTERFACE_LIBRARY")
    add_dependencies(dardo_installed ${target})
  endif()
endforeach()
if(DARDO_BUILD_CLI)
  add_dependencies(dardo_installed dardo_program)
endif()

configure_package_config_file(cmake/dardo-config.cmake.in "${CMAKE_CURRENT_BINARY_DIR}/dardo-config.cmake"
  INSTALL_DESTINATION "${dardo_cmake_dir}")
write_basic_package_version_file("${CMAKE_CURRENT_BINARY_DIR}/dardo-config-version.cmake"
  COMPATIBILITY SameMinorVersion)
install(FILES "${CMAKE_CURRENT_BINARY_DIR}/dardo-config.cmake"
              "${CMAKE_CURRENT_BINARY_DIR}/dardo-config-version.cmake"
        DESTINATION "${dardo_cmake_dir}")
