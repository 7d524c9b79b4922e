# Links the core before the program's own objects. A template or an inline function that both use is in both; the linker
# takes the first it sees, and that shall be the one of the optimised, instrumented core, not that of a test compiled at
# -O0: the solvers run twice as fast. PROGRAM gets the engine, the core and what else is named, whole.
function(ember_core_first program)
  set(libraries ember_engine ember_core ${ARGN})
  set(files)
  foreach(library ${libraries})
    list(APPEND files $<TARGET_FILE:${library}>)
  endforeach()
  target_link_options(${program} PRIVATE LINKER:--whole-archive ${files} LINKER:--no-whole-archive)
  set_property(TARGET ${program} APPEND PROPERTY LINK_DEPENDS ${files})
endfunction()
