#!/bin/sh
# Pictures of the main commands on the demo data, in a real terminal window, and
# of the pages in a browser. Needs Xvfb, xterm, ImageMagick and Chromium. Run it
# by: make screenshots
set -eu
here=$(cd "$(dirname "$0")" && pwd)
thrush=$here/../../bin/thrush
work=$(mktemp -d)
trap 'rm -rf "$work"; [ -z "${server:-}" ] || kill "$server"' EXIT

"$thrush" demo --to "$work/skerry" >/dev/null 2>&1
ln -s "$(realpath "$thrush")" "$work/thrush"
PATH=$work:$PATH
where=$work/skerry
cd "$where"

display=:$((90 + $$ % 100))
Xvfb "$display" -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
export DISPLAY=$display
sleep 1

# shot NAME COMMAND... shows a prompt with the command and what it prints.
shot() {
	name=$1
	shift
	cat >"$work/show" <<EOF
cd $where
export COLORTERM=truecolor TERM=xterm-256color
printf '\033[1m\$ %s\033[0m\n' "$*"
$* || true
touch $work/done
sleep 60
EOF
	rm -f "$work/done"
	xterm -bg '#fbfaf7' -fg '#22262b' -fa 'DejaVu Sans Mono' -fs 11 -geometry 132x42+0+0 -b 12 +sb -e sh "$work/show" &
	window=$!
	while [ ! -e "$work/done" ]; do sleep 0.1; done
	sleep 1
	import -window root -trim +repage -strip "$work/shot.png"
	convert "$work/shot.png" -trim +repage -bordercolor '#fbfaf7' -border 12 -colors 64 -strip -define png:exclude-chunk=date,time "$here/$name.png"
	kill "$window"
	wait "$window" 2>/dev/null || true
}

shot record thrush record -- go test ./...
shot tally thrush tally
shot source thrush source fare/fare.go --lines 36-72
shot gaps thrush gaps
thrush record -q --level conditions -- go test ./... >/dev/null
shot explain thrush explain timetable/timetable.go:28
shot conditions thrush gaps --conditions --all
thrush record -q -- go test ./... >/dev/null
shot gate-met thrush gate --since main
rm fare/tide_test.go
thrush record -q -- go test ./... >/dev/null
shot gate-not-met thrush gate --since main
shot log thrush log
if [ -d "$work/skerry-timetable" ]; then
	where=$work/skerry-timetable
	shot python thrush source timetable/sailings.py --lines 25-46
fi

# Pages, with what moved since the first recording.
thrush record -q --level conditions -- go test ./... >/dev/null
before=$(thrush log --format json | grep '"id"' | tail -1 | cut -d'"' -f4)
thrush render -q --to "$work/report" --since main --against "$before" >/dev/null
for metric in lines branches functions; do thrush badge --metric $metric --out "$work/report/$metric.svg"; done
cat >"$work/report/badges.html" <<'EOF'
<!doctype html><body style="margin:16px;display:grid;gap:12px;justify-items:start">
<img src="lines.svg" alt=""><img src="branches.svg" alt=""><img src="functions.svg" alt="">
EOF
cd "$work/skerry"
# A test is gone: what it ran is lost.
rm timetable/timetable_test.go
thrush record -q -- go test ./... >/dev/null
shot compare thrush compare main.thrush
thrush render -q --to "$work/compared" --since main --against main.thrush >/dev/null
cd "$here/../.."
go run ./docs/screenshots/pages "$work/report" "$work"
for picture in "$work"/page-*.png "$work/badge.png"; do
	convert "$picture" +dither -colors 200 -strip -define png:exclude-chunk=date,time "$here/$(basename "$picture")"
done
