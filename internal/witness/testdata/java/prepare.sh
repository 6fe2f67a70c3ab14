# Fetches projects as they were published, into the working folder, where they are not there
# yet: how they are built, their sources and those of their tests.
set -eu
for name in "$@"; do
	if [ "$name" = gson-2.10.1 ]; then # whose tests are in Debian's source package alone
		[ -e "$name/pom.xml" ] && continue
		SUITE=trixie sh "$(dirname "$0")/../native/fetch.sh" libgoogle-gson-java
		echo ee8d226848374c5cd0b3a0af7915eb96d5c977fdc84d34db1cfd7c8a5b66a345 libgoogle-gson-java_2.10.1.orig.tar.xz | sha256sum -c
		mkdir "$name" && tar xf libgoogle-gson-java_2.10.1.orig.tar.xz -C "$name" --strip-components=1
		continue
	fi
	group=org.apache.commons artifact=${name%-*} version=${name##*-}
	case $artifact in commons-cli | commons-codec) group=$artifact ;; esac
	[ -e "$name/src/test" ] && continue
	rm -rf "$name" fetched
	for kind in pom jar:sources jar:test-sources; do
		mvn -B -q org.apache.maven.plugins:maven-dependency-plugin:3.6.1:copy -Dartifact="$group:$artifact:$version:$kind" -DoutputDirectory="$PWD/fetched"
	done
	mkdir -p "$name/src/main/java" "$name/src/test/java"
	mv "fetched/$name.pom" "$name/pom.xml"
	(cd "$name/src/main/java" && jar xf "$OLDPWD/fetched/$name-sources.jar" && rm -rf META-INF)
	(cd "$name/src/test/java" && jar xf "$OLDPWD/fetched/$name-test-sources.jar" && rm -rf META-INF)
	find "$name" -type d -name jmh_generated -exec rm -r {} + # made from the others
	for set in main test; do
		mkdir -p "$name/src/$set/resources"
		(cd "$name/src/$set/java" && find . -type f ! -name '*.java' | while read -r f; do mkdir -p "../resources/$(dirname "$f")" && mv "$f" "../resources/$f"; done)
	done
done
