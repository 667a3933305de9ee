# SPDX-License-Identifier: Apache-2.0
# The Debian packages; packaging/make_packages.sh builds them. A component is a package.
set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME fell)
set(CPACK_PACKAGE_CONTACT "The Fell authors <maintainers@fell.example>")
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_DEBIAN_PACKAGE_RELEASE 1)
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_DEBIAN_ENABLE_COMPONENT_DEPENDS OFF)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)
set(CPACK_COMPONENTS_ALL cli app dev doc)
set(CPACK_COMPONENTS_GROUPING IGNORE)

set(version "${PROJECT_VERSION}-${CPACK_DEBIAN_PACKAGE_RELEASE}")
macro(package component name section depends summary)
  string(TOUPPER ${component} upper)
  string(REPLACE ";" "\n" text "${ARGN}")
  set(CPACK_DEBIAN_${upper}_PACKAGE_NAME ${name})
  set(CPACK_DEBIAN_${upper}_PACKAGE_SECTION ${section})
  set(CPACK_DEBIAN_${upper}_PACKAGE_DEPENDS "${depends}")
  set(CPACK_DEBIAN_${upper}_DESCRIPTION "${summary}\n${text}")
endmacro()
package(cli fell-cli utils "" "measure the chunk pipeline of voxel terrain engines"
  "Generates a voxel world and runs meshing, lighting, level of detail, culling"
  "and drawing on it. Every stage has several methods. A transect answers which"
  "is faster, as a ratio with a confidence interval. Includes the demo worlds, a"
  "manual page and completions.")
package(app fell utils "fell-cli (= ${version}), fonts-inter" "workbench for voxel terrain engines"
  "A window on the chunk pipeline: fly through a voxel world, exchange the method"
  "of every stage, see what each chunk costs, and measure mesh build time and"
  "frame time against render distance. Needs OpenGL 4.5.")
package(dev libfell-dev libdevel
  "libglm-dev, nlohmann-json3-dev, libsqlitecpp-dev, libsqlite3-dev, libzstd-dev, libxxhash-dev, libtinygltf-dev, libtinyobjloader-dev, libpng-dev, zlib1g-dev"
  "core of Fell as a static library"
  "Voxel storage, terrain generation, light, meshing, level of detail, culling,"
  "streaming and measuring, in C++20 without Qt and OpenGL. Contains a second"
  "archive for x86-64-v3.")
package(doc fell-doc doc "" "documents of Fell"
  "Tutorial, how-tos, concepts and reference of Fell, as the window shows them on"
  "F1.")
set(CPACK_DEBIAN_CLI_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_APP_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_CLI_PACKAGE_RECOMMENDS "libegl1, libgl1-mesa-dri")
set(CPACK_DEBIAN_APP_PACKAGE_RECOMMENDS "fell-doc, libgl1-mesa-dri, libegl1")
set(CPACK_DEBIAN_DOC_PACKAGE_ARCHITECTURE all)

# What every package of Debian has: its licence and its changes.
set(debian ${CMAKE_CURRENT_BINARY_DIR}/debian)
configure_file(debian/changelog.in ${debian}/changelog @ONLY)
execute_process(COMMAND gzip -9nkf ${debian}/changelog)
foreach(of cli:fell-cli app:fell dev:libfell-dev doc:fell-doc)
  string(REPLACE ":" ";" of ${of})
  list(GET of 0 component)
  list(GET of 1 name)
  install(FILES debian/copyright DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component})
  install(FILES ${debian}/changelog.gz RENAME changelog.Debian.gz DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component})
endforeach()
include(CPack)
