#!/usr/bin/env bash
# Debian packages that are missing: installed where we may, else named. Arguments: package names.
set -eu

missing=()
for package in "$@"; do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
done
[ ${#missing[@]} -gt 0 ] || exit 0

if [ "$(id -u)" -ne 0 ]; then
  echo "These Debian packages are missing; as root, run:" >&2
  echo "  apt-get install --no-install-recommends ${missing[*]}" >&2
  exit 1
fi
echo "system packages: installing ${missing[*]}"
export DEBIAN_FRONTEND=noninteractive
apt-get update -qq
case " ${missing[*]} " in
  *" postgresql "*)
    # The application has a cluster of its own; keep the package from making another one.
    apt-get install -qq -y --no-install-recommends postgresql-common >/dev/null
    if ! pg_lsclusters -h 2>/dev/null | grep -q .; then
      sed -i 's/^#\?create_main_cluster.*/create_main_cluster = false/' /etc/postgresql-common/createcluster.conf
    fi
    ;;
esac
apt-get install -qq -y --no-install-recommends "${missing[@]}" >/dev/null
