#!/bin/sh
# A table in C of a list of oxides with their molar masses.
{
  echo '#include "oxides.h"'
  echo 'const struct oxide oxides[] = {'
  while read -r name mass; do
    [ -n "$name" ] && printf '  {"%s", %s},\n' "$name" "$mass"
  done <"$1"
  echo '};'
  echo 'const int oxide_count = sizeof oxides / sizeof *oxides;'
} >"$2"
