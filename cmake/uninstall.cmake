# Takes away what the last cmake --install of BUILD put somewhere, and no folder.
set(list ${BUILD}/install_manifest.txt)
if(NOT EXISTS ${list})
  message(FATAL_ERROR "nothing to take away: ${list} is not there, and is written "
                      "by cmake --install ${BUILD}")
endif()
file(STRINGS ${list} files)
list(LENGTH files count)
file(REMOVE ${files})
message(STATUS "taken away: ${count} files")
