# soname_of(OUT LIBRARY): the name by which the loader looks up a shared library, for those that are opened at run time.
function(soname_of out library)
  execute_process(COMMAND ${CMAKE_READELF} -d ${library} OUTPUT_VARIABLE text ERROR_VARIABLE fault RESULT_VARIABLE result)
  if(NOT result EQUAL 0 OR NOT text MATCHES "\\(SONAME\\)[^[]*\\[([^]]+)\\]")
    message(FATAL_ERROR "${library} is no shared library with a name: ${fault}")
  endif()
  set(${out} ${CMAKE_MATCH_1} PARENT_SCOPE)
endfunction()
