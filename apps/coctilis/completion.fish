# fish completion for coctilis: the program itself knows what may stand where.
function __coctilis_complete
  set -l before (commandline -opc)
  coctilis complete (count $before) $before (commandline -ct) 2>/dev/null
end
complete -c coctilis -a '(__coctilis_complete)'
