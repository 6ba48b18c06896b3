# embed_files(OUT NAME BASE FILE...): generates OUT, a source that defines
#   namespace coctilis::embedded { const std::vector<File> NAME; }
# with the path below BASE, the mode and the bytes of every FILE. The program needs no file of its source tree to run.
set(COCTILIS_EMBED_SCRIPT ${CMAKE_CURRENT_LIST_DIR}/embed-write.cmake)
function(embed_files out name base)
  set(list ${out}.list)
  string(REPLACE ";" "\n" lines "${ARGN}")
  file(WRITE ${list}.new "${lines}\n")
  file(COPY_FILE ${list}.new ${list} ONLY_IF_DIFFERENT)
  set(depends)
  foreach(file IN LISTS ARGN)
    list(APPEND depends ${base}/${file})
  endforeach()
  add_custom_command(OUTPUT ${out}
    COMMAND ${CMAKE_COMMAND} -DOUT=${out} -DNAME=${name} -DBASE=${base} -DLIST=${list} -P ${COCTILIS_EMBED_SCRIPT}
    DEPENDS ${depends} ${list} ${COCTILIS_EMBED_SCRIPT}
    COMMENT "Embedding ${name}" VERBATIM)
endfunction()
