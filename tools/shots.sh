#!/usr/bin/env bash
# tools/shots.sh PROGRAM FOLDER: makes the screenshots of the documentation again, from the demo scene.
set -euo pipefail
program=$(realpath "$1")
folder=$(realpath "$2")
cd "$(dirname "$0")/.."

for launch in mara-harpoon tessa-horn odo-fire-pot mara-rocket tessa-flare odo-stone ilse-grapeshot tessa-breaks-it tessa-net tessa-bell ilse-spark mara-hook mara-leap; do
  "$program" draw scenes/harbour.json --launch "$launch" -o "$folder/$launch.png"
done

"$program" draw scenes/jetty.json --launch odo-skips -o "$folder/odo-skips.png"
"$program" draw scenes/quay.json --launch mara-kite -o "$folder/mara-kite.png"
"$program" draw scenes/quay.json --launch mara-sweep -o "$folder/mara-sweep.png"

# terminal NAME COMMAND...: a real terminal window with the command's output.
terminal() {
  local name=$1 script
  shift
  script=$(mktemp)
  {
    echo "export PATH=$(dirname "$program"):\$PATH PS1="
    echo "printf '\$ %s\n' '$*'"
    echo "$*"
    echo "touch '$script.done'; sleep 60"
  } >"$script"
  xvfb-run -a -s "-screen 0 1180x500x24" bash -c "
    xterm -geometry 130x26+0+0 -fa 'DejaVu Sans Mono' -fs 11 -bg '#12161c' -fg '#d8dce2' -e bash '$script' &
    for i in \$(seq 100); do [ -e '$script.done' ] && break; sleep 0.1; done
    sleep 0.7
    import -window root '$folder/$name.png'
    kill %1"
  rm -f "$script" "$script.done"
  echo "$folder/$name.png"
}

terminal resolve dardo resolve scenes/harbour.json --launch odo-fire-pot
terminal aim dardo aim scenes/harbour.json
terminal why dardo resolve scenes/harbour.json --launch tessa-horn --why raider-3
