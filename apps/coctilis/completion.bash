# bash completion for coctilis: the program itself knows what may stand where.
_coctilis() {
  local current=${COMP_WORDS[COMP_CWORD]}
  mapfile -t COMPREPLY < <(coctilis complete "$COMP_CWORD" "${COMP_WORDS[@]}" 2>/dev/null)
  if [ ${#COMPREPLY[@]} -gt 0 ]; then
    local i
    for i in "${!COMPREPLY[@]}"; do
      case ${COMPREPLY[i]} in
        *=) compopt -o nospace; COMPREPLY[i]=$(printf %q "${COMPREPLY[i]%=}")= ;;
        *) COMPREPLY[i]=$(printf %q "${COMPREPLY[i]}") ;;
      esac
    done
    return
  fi
  [ "$COMP_CWORD" -gt 1 ] || return
  compopt -o filenames
  mapfile -t COMPREPLY < <(compgen -f -- "$current")
}
complete -F _coctilis coctilis
