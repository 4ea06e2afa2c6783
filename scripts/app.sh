# The built application, published once into .local/app for start and test. Sourced after cluster.sh.
#
#   publish_app LOG [ARGUMENTS]  builds it when it is older than its sources; what the build says goes to LOG. Without
#                                analyzers, which take a third of the time: whoever starts it does not change it, and
#                                ./test builds with them.

APP=$ROOT/.local/app

app_is_current() {
    [ -e "$APP/.built" ] && [ -z "$(find "$ROOT/src" "$ROOT/demo" "$ROOT"/Directory.* "$ROOT/global.json" \
        \( -name bin -o -name obj \) -prune -o -type f -newer "$APP/.built" -print -quit)" ]
}

publish_app() {
    local log=$1; shift
    app_is_current && return
    mkdir -p "$ROOT/.local" 2>/dev/null
    # Two that start at once build once: the second waits and finds it done.
    local lock
    exec {lock}>>"$ROOT/.local/build.lock" || die "Cannot write to $ROOT/.local: is the disk full?"
    flock "$lock"
    if ! app_is_current; then
        say "Building (a minute the first time) …"
        local stamp; stamp=$(mktemp) || die "Cannot write to the temporary folder."
        if ! dotnet publish "$ROOT/src/Zandrik.Web" -c Release -o "$APP" -v quiet --nologo -p:RunAnalyzers=false "$@" > "$log" 2>&1 9>&- {lock}>&-; then
            grep -m 10 -E "error|No space" "$log" >&2
            die "The build failed; everything it said is in $log."
        fi
        # The simulated instruments of the demo are a program of their own, beside it.
        if ! dotnet publish "$ROOT/src/Zandrik.Instruments" -c Release -o "$APP/instruments" -v quiet --nologo -p:RunAnalyzers=false "$@" >> "$log" 2>&1 9>&- {lock}>&-; then
            grep -m 10 -E "error|No space" "$log" >&2
            die "The build failed; everything it said is in $log."
        fi
        touch -r "$stamp" "$APP/.built"; rm -f "$stamp"
    fi
    exec {lock}>&-
}

# Installed, it is built already and brings its runtime along.
if [ -x "$ROOT/dotnet/dotnet" ]; then
    APP=$ROOT/app
    export PATH=$ROOT/dotnet:$PATH DOTNET_ROOT=$ROOT/dotnet DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
    need_sdk() { :; }
    publish_app() { :; }
fi
