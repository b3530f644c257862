#!/bin/sh
# need.sh NAME...: installs what is missing of: mariadb, galera, headless (Chromium that shows pages to programs only), chromium (which shows PDFs as well), occt (STEP files of another program), pdf, odbc, web. Says what it does; does nothing when all is there.
set -eu
cd "$(dirname "$0")/.."

as_root() {
	if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null 2>&1; then sudo -n "$@"; else
		echo "This step needs root: run '$*' yourself, then try again." >&2
		exit 1
	fi
}

updated=no
debian() {
	command -v apt-get >/dev/null 2>&1 || {
		echo "Missing: $*. Install them with your system's package manager, then try again." >&2
		exit 1
	}
	echo "Installing from Debian's packages: $*"
	if [ $updated = no ]; then
		as_root apt-get -qq update >/dev/null
		updated=yes
	fi
	as_root env DEBIAN_FRONTEND=noninteractive apt-get -qq -y --no-install-recommends install "$@" >/dev/null
}

# A package's own service would hold port 3306 and is of no use here: keep it from starting while it is installed.
without_services() {
	policy=/usr/sbin/policy-rc.d
	made=no
	if [ ! -e $policy ]; then
		printf '#!/bin/sh\nexit 101\n' | as_root tee $policy >/dev/null
		as_root chmod 755 $policy
		made=yes
	fi
	"$@"
	if [ $made = yes ]; then as_root rm -f $policy; fi
}

for name in "$@"; do
	case $name in
	mariadb) command -v mariadbd >/dev/null 2>&1 || [ -x /usr/sbin/mariadbd ] || without_services debian mariadb-server mariadb-client ;;
	galera)
		[ -e /usr/lib/galera/libgalera_smm.so ] || without_services debian galera-4
		command -v rsync >/dev/null 2>&1 || debian rsync
		command -v lsof >/dev/null 2>&1 || debian lsof
		command -v ip >/dev/null 2>&1 || debian iproute2
		;;
	headless) # a release that has no such package has Chromium, which the tests take then
		command -v chromium-headless-shell >/dev/null 2>&1 || debian chromium-headless-shell fonts-dejavu-core || debian chromium fonts-dejavu-core ;;
	chromium) command -v chromium >/dev/null 2>&1 || debian chromium fonts-dejavu-core ;;
	pdf) command -v pdftotext >/dev/null 2>&1 || debian poppler-utils ;;
	odbc)
		command -v isql >/dev/null 2>&1 || debian unixodbc
		[ -n "$(find /usr/lib -name libmaodbc.so -print -quit 2>/dev/null)" ] || debian odbc-mariadb
		;;
	occt) [ -e /usr/share/opencascade/data/step/screw.step ] || debian occt-misc ;;
	web)
		stamp=web/node_modules/.installed
		if [ ! -e $stamp ] || ! cmp -s web/package-lock.json $stamp; then
			echo "Installing the console's packages"
			(cd web && npm ci --no-audit --no-fund --loglevel=error)
			cp web/package-lock.json $stamp
		fi
		;;
	*)
		echo "need.sh does not know '$name'" >&2
		exit 2
		;;
	esac
done
