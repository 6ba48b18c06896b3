# bash completion for coctilis
_coctilis() {
  local current=${COMP_WORDS[COMP_CWORD]} previous=${COMP_WORDS[COMP_CWORD-1]} command=${COMP_WORDS[1]}
  local commands="bringup survey locate plan build smoke stage why report env clean demo"
  if [ "$COMP_CWORD" -eq 1 ]; then
    mapfile -t COMPREPLY < <(compgen -W "$commands --help --version" -- "$current")
    return
  fi
  case $previous in
    --kiln|--with) mapfile -t COMPREPLY < <(compgen -d -- "$current"); return ;;
    --config) mapfile -t COMPREPLY < <(compgen -f -- "$current"); return ;;
    --variant) mapfile -t COMPREPLY < <(compgen -W "release debug sanitized coverage" -- "$current"); return ;;
    --toolchain) mapfile -t COMPREPLY < <(compgen -W "gcc clang" -- "$current"); return ;;
    --set|--unset|-j|--jobs|--run) return ;;
  esac
  local options="--help --json --plain --quiet --verbose"
  case $command in
    bringup|build) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install --past-failures" ;;
    locate) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install --changes" ;;
    stage) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install --prefix" ;;
    why) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs" ;;
    plan) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install --options" ;;
    smoke) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install --list --failed --repeat --record --debug --shell" ;;
    demo) options="$options --kiln --config --variant --toolchain --with --set --unset --jobs --install" ;;
    survey) options="$options --config --fill --with --jobs" ;;
    report) options="$options --kiln --variant --run" ;;
    env) options="$options --kiln --variant" ;;
    clean) options="$options --kiln --variant --yes" ;;
  esac
  case $current in
    -*) mapfile -t COMPREPLY < <(compgen -W "$options" -- "$current") ;;
    *) mapfile -t COMPREPLY < <(compgen -d -- "$current") ;;
  esac
}
complete -F _coctilis coctilis
