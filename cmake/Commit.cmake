# SPDX-License-Identifier: Apache-2.0
# Writes ${OUT}, a source file with the commit that is built: read at each build, not when CMake configures. "+changes"
# follows where a file that git knows was changed. The file is only written where its text is another, so that nothing is
# compiled in vain.
execute_process(COMMAND git -C ${SOURCE} rev-parse --short=12 HEAD
  OUTPUT_VARIABLE commit OUTPUT_STRIP_TRAILING_WHITESPACE ERROR_QUIET RESULT_VARIABLE failed)
if(failed)
  set(commit unknown)
else()
  execute_process(COMMAND git -C ${SOURCE} status --porcelain --untracked-files=no
    OUTPUT_VARIABLE changes OUTPUT_STRIP_TRAILING_WHITESPACE ERROR_QUIET)
  if(NOT changes STREQUAL "")
    string(APPEND commit "+changes")
  endif()
endif()
set(text "// Written by cmake/Commit.cmake.\n#include <fell/measure/machine.h>\n\nnamespace fell::measure {\n\nstd::string buildCommit()\n{\n    return \"${commit}\";\n}\n\n} // namespace fell::measure\n")
set(old "")
if(EXISTS ${OUT})
  file(READ ${OUT} old)
endif()
if(NOT old STREQUAL text)
  file(WRITE ${OUT} "${text}")
endif()
