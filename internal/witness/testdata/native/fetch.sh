# Fetches the upstream archives of Debian's source packages into the folder at hand,
# whatever this machine's own lists of packages have. SUITE names another release of Debian
# than the machine's own to take them from.
set -e
rm -rf lists parts
mkdir -p lists/partial parts
own=$(. /etc/os-release && echo "$VERSION_CODENAME")
for f in /etc/apt/sources.list /etc/apt/sources.list.d/*; do
	[ -s "$f" ] || continue
	sed -e 's/^deb /deb-src /' -e 's/^Types:.*/Types: deb-src/' -e "s/$own/${SUITE:-$own}/g" "$f" > "parts/$(basename "$f")"
done
apt="apt-get -q -o Dir::Etc::sourcelist=/dev/null -o Dir::Etc::sourceparts=$PWD/parts -o Dir::State::lists=$PWD/lists -o APT::Sandbox::User=root"
$apt update || true
# Only the archives are wanted: what Debian adds may be gone for a newer version.
fetch() { $apt source --download-only --tar-only "$1"; }
for name; do
	fetch "$name" || { sleep 5; fetch "$name"; }
done
rm -rf lists parts
