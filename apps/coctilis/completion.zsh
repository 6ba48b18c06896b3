#compdef coctilis
# zsh completion for coctilis: the program itself knows what may stand where.
local -a found
found=("${(@f)$(coctilis complete $((CURRENT - 1)) "${words[@]}" 2>/dev/null)}")
found=(${found:#})
if (( ${#found} )); then
  local -a assigns=(${(M)found:#*=}) plain=(${found:#*=})
  (( ${#assigns} )) && compadd -S '' -a assigns
  (( ${#plain} )) && compadd -a plain
else
  _files
fi
