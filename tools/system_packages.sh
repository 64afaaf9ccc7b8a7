#!/bin/sh
# The Debian packages that the tests look at fonts with, and the fonts they look at. Installs what is missing when
# it may (root, apt-get), else names it and fails. Further packages can be named as arguments.
set -eu

wanted="chromium firefox-esr libfribidi0 fontconfig \
fonts-dejavu-core fonts-liberation fonts-karla fonts-inter-variable fonts-sil-padauk fonts-hosny-amiri \
fonts-oflb-asana-math fonts-oldstandard fonts-lohit-knda fonts-sil-mingzat fonts-wqy-microhei fonts-unifont \
fonts-open-sans fonts-taml-tscu fonts-sora fonts-urw-base35 fonts-wine $*"

missing=""
for package in $wanted; do
    status=$(dpkg-query --show --showformat '${db:Status-Status}' "$package" 2>/dev/null || true)
    [ "$status" = installed ] || missing="$missing $package"
done
[ -z "$missing" ] && exit 0

if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    echo "Installing$missing"
    apt-get update -qq
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
else
    echo "These Debian packages are missing; install them first:$missing" >&2
    exit 1
fi
