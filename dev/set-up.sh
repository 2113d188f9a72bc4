#!/usr/bin/env bash
# Installs what Fjordline needs and this machine lacks; does nothing when all is there.
# usage: dev/set-up.sh [develop]     develop adds what `make docs`, `lint` and `bench` use
set -eu
cd "$(dirname "$0")/.."

say() { printf 'set-up: %s\n' "$1" >&2; }
stop() { say "$1"; exit 1; }

command -v Rscript >/dev/null || stop "R is not on the PATH. Install R 4.2 or newer, then run this again."
fields=(); [ "${1:-}" = develop ] && fields=(Config/Needs/develop)
missing() { Rscript dev/missing-packages.R ${fields[@]+"${fields[@]}"}; }
tools_missing() {
  command -v pandoc >/dev/null || echo pandoc
  command -v g++ >/dev/null || command -v clang++ >/dev/null || echo g++
}
can_apt() { command -v apt-get >/dev/null && [ "$(id -u)" = 0 ]; }

packages=$(missing); programs=$(tools_missing)
[ -z "$packages$programs" ] && exit 0
# optional packages that could not be had last time are not asked for again; `make clean` forgets
tried=build/not-there
[ -z "$programs" ] && [ -f "$tried" ] && [ "$packages" = "$(cat "$tried")" ] && exit 0
say "missing: $(echo $packages $programs)"

if can_apt; then
  say "taking Debian's prebuilt packages (about two minutes)"
  export DEBIAN_FRONTEND=noninteractive
  if apt-get update -qq >/dev/null 2>&1; then
    wanted=$programs
    for package in $packages; do
      name=r-cran-$(echo "$package" | tr '[:upper:]' '[:lower:]')
      apt-cache show "$name" >/dev/null 2>&1 && wanted="$wanted $name"
    done
    [ -n "$(echo $wanted)" ] && { apt-get install -y -qq --no-install-recommends $wanted >/dev/null ||
      say "apt could not install all of: $wanted"; }
  else
    say "Debian's package lists cannot be reached"
  fi
  packages=$(missing)
fi
if [ -n "$packages" ]; then
  say "taking from CRAN: $(echo $packages)"
  Rscript dev/install-from-cran.R $packages >&2 || true
fi

packages=$(Rscript dev/missing-packages.R needed); programs=$(tools_missing)
optional=$(missing)
if [ -z "$packages" ] && [ -n "$optional" ]; then
  mkdir -p build && echo "$optional" > "$tried"
  say "not there: $(echo $optional). Everything works but what needs them (some file formats, or the tools of development)."
fi
[ -z "$packages" ] || stop "still missing: $(echo $packages). Neither apt nor CRAN gave them; check the network, \
or install them in R with install.packages(), then run this again."
case " $(echo $programs) " in
  *" g++ "*) stop "there is no C++ compiler. Install one (Debian: g++; macOS: the command line tools), then run this again." ;;
  *" pandoc "*) say "pandoc is missing: everything works but the HTML report. Your system's package manager has it." ;;
esac
say "done"
