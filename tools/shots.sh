#!/usr/bin/env bash
# tools/shots.sh PROGRAM FOLDER: makes the screenshots of the documentation again, from the demo scene.
set -euo pipefail
program=$(realpath "$1")
folder=$(realpath "$2")
cd "$(dirname "$0")/.."

harbour=scenes/harbour.json
for launch in mara-harpoon odo-fire-pot tessa-bell ilse-spark mara-hook mara-leap; do
  "$program" draw $harbour --launch "$launch" -o "$folder/$launch.png"
done
"$program" draw $harbour --launch tessa-horn --against tessa-bell --view plan -o "$folder/horn-against-bell.png"
"$program" draw $harbour --launch mara-rocket --frames 6 -o "$folder/mara-rocket.png"
"$program" draw $harbour --launch tessa-flare --dark --view plan --view oblique --view side -o "$folder/tessa-flare.png"
"$program" draw scenes/jetty.json --launch odo-skips --frames 6 -o "$folder/odo-skips.png"

# page NAME ADDRESS SCENE...: a report of the scenes, opened at an address; options of the report may follow.
page() {
  local name=$1 address=$2 made
  shift 2
  made=$(mktemp -d)
  "$program" report "$@" -o "$made/report.html" >/dev/null
  timeout 60 chromium --headless=new --no-sandbox --user-data-dir="$made/profile" --use-gl=angle --use-angle=swiftshader \
    --enable-unsafe-swiftshader --ignore-gpu-blocklist --hide-scrollbars --window-size=1280,800 --timeout=8000 \
    --screenshot="$folder/$name.png" "file://$made/report.html$address" >/dev/null 2>&1
  rm -rf "$made"
  echo "$folder/$name.png"
}

wider=$(mktemp -d)
sed '/"horn": {/,/}/ s/"radius": 7/"radius": 10/' $harbour >"$wider/wider-horn.json"
page report '#launch=mara-rocket&t=1.9&body=raider-6' $harbour
page report-horn '#launch=tessa-horn&body=raider-3&view=plan' $harbour
page report-two '#launch=tessa-horn&body=raider-4' $harbour "$wider/wider-horn.json"
page report-together '#launch=all+together&t=2.6&view=oblique' scenes/slipway.json --together
rm -rf "$wider"

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
terminal together 'dardo resolve scenes/slipway.json --together | head -24'
terminal describe 'dardo describe scenes/slipway.json pitch-pot | head -24'
