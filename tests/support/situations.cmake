# The sources of what makes situations and plays them: built once for the tests, once under libFuzzer.
set(situation_sources situation fitting play reference relations trials)
list(TRANSFORM situation_sources PREPEND ${CMAKE_CURRENT_LIST_DIR}/)
list(TRANSFORM situation_sources APPEND .cpp)
