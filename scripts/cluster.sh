# A private PostgreSQL cluster on loopback, never the system's. Sourced by start, test and screenshots.
#
#   say TEXT / die TEXT         messages
#   need_sdk                    ends with a message when there is no .NET 10 SDK
#   need_packages               PostgreSQL from Debian's packages; installs it when it may, else names the command
#   cluster_make DIR            makes the cluster when DIR has none; sets CLUSTER
#   cluster_start MODE          "safe" for real data, "fast" for throwaway tests; sets PG_PORT
#   cluster_stop
#   owner_db NAME / app_db NAME connection strings
#   sql DB STATEMENT            runs a statement as the owner
#   elsewhere FILE              the database is on another machine, as FILE says: from here on nothing of one is installed, made,
#                               started or stopped, and owner_db and app_db say what FILE says

say() { printf '%s\n' "$*"; }
die() { printf 'zandrik: %s\n' "$*" >&2; exit 1; }

is_root() { [ "$(id -u)" = 0 ]; }

need_sdk() {
    if ! command -v dotnet >/dev/null 2>&1; then
        die "The .NET SDK is missing. Install the .NET 10 SDK for your system, so that 'dotnet --version' answers, and start again."
    fi
    # A HOME that is missing or read-only stops every dotnet command.
    if [ ! -d "${HOME:-}" ] || [ ! -w "${HOME:-}" ]; then
        export DOTNET_CLI_HOME="${TMPDIR:-/tmp}/zandrik-dotnet-$(id -u)"
        mkdir -p "$DOTNET_CLI_HOME"
    fi
    export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
    if ! dotnet --list-sdks 2>/dev/null | grep -q '^10\.'; then
        die "A .NET 10 SDK is needed; found: $(dotnet --list-sdks 2>/dev/null | cut -d' ' -f1 | tr '\n' ' '). Install the .NET 10 SDK and start again."
    fi
}

# install_packages "what for" PACKAGE...
install_packages() {
    local what=$1; shift
    if is_root; then
        say "Installing $what from Debian's packages ($*) …"
        if [ ! -e /etc/postgresql-common ]; then
            # The package would make and start a system cluster of its own, which nobody asked for.
            mkdir -p /etc/postgresql-common/createcluster.d
            echo "create_main_cluster = false" > /etc/postgresql-common/createcluster.d/no-main.conf
        fi
        local log; log=$(mktemp) || die "Cannot write to the temporary folder."
        if ! { DEBIAN_FRONTEND=noninteractive apt-get update -qq -o DPkg::Lock::Timeout=300 \
            && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq -o DPkg::Lock::Timeout=300 --no-install-recommends "$@"; } >"$log" 2>&1; then
            tail -n 5 "$log" >&2
            die "Installing $* failed; the reason is above. Run: apt-get update && apt-get install --no-install-recommends $*"
        fi
        rm -f "$log"
    else
        local first=""
        if [ "$what" = PostgreSQL ] && [ ! -e /etc/postgresql-common ]; then
            first="sudo mkdir -p /etc/postgresql-common/createcluster.d && echo create_main_cluster = false | sudo tee /etc/postgresql-common/createcluster.d/no-main.conf && "
        fi
        die "$what is missing. Run this once, then start again:  ${first}sudo apt-get update && sudo apt-get install --no-install-recommends $*"
    fi
}

find_postgres() {
    PG_BIN=""
    local dir
    for dir in /usr/lib/postgresql/15/bin $(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -rV); do
        if [ -x "$dir/initdb" ] && [ -x "$dir/psql" ]; then PG_BIN=$dir; return 0; fi
    done
    return 1
}

need_packages() {
    [ -z "${ELSEWHERE:-}" ] || return 0
    find_postgres || { install_packages "PostgreSQL" postgresql-15; find_postgres || die "PostgreSQL was installed but is not in /usr/lib/postgresql."; }
}

# PostgreSQL refuses to run as root, so root runs it as the user that Debian's package made.
as_pg() {
    if is_root; then (cd / && exec runuser -u postgres -- "$@"); else "$@"; fi
}

random_word() { od -An -N24 -tx1 /dev/urandom | tr -d ' \n'; }

cluster_make() {
    local home=$1
    CLUSTER_HOME=$home
    [ -z "${ELSEWHERE:-}" ] || return 0
    CLUSTER=$home/pg
    if [ -s "$home/pg-is-kept-in" ]; then
        CLUSTER=$(cat "$home/pg-is-kept-in")
    elif is_root && ! as_pg test -x "$home"; then
        # The database user cannot reach this folder (a checkout below a closed home). Its data go where it can.
        CLUSTER=/var/lib/postgresql/zandrik-$(printf '%s' "$home" | sha256sum | cut -c1-12)
        say "The database user cannot reach $home, so the data are kept in $CLUSTER."
        mkdir -p "$CLUSTER" || die "The user postgres cannot read $home, and $CLUSTER cannot be made. Move the checkout, or start with --data DIR naming a folder that postgres can reach."
        printf '%s\n' "$CLUSTER" > "$home/pg-is-kept-in"
    fi
    if [ -e "$CLUSTER/data/PG_VERSION" ]; then
        local version; version=$(cat "$CLUSTER/data/PG_VERSION")
        if [ -x "/usr/lib/postgresql/$version/bin/postgres" ]; then
            PG_BIN=/usr/lib/postgresql/$version/bin
        else
            die "The data in $CLUSTER/data were made by PostgreSQL $version, and only ${PG_BIN#/usr/lib/postgresql/} is installed. Install postgresql-$version, or start with --data DIR in a new folder."
        fi
        return
    fi
    say "Making a database cluster in $CLUSTER …"
    mkdir -p "$CLUSTER" || die "Cannot write to $CLUSTER."
    # Made beside its place and moved there whole: a kill in the middle leaves nothing that looks finished.
    rm -rf "$CLUSTER/data" "$CLUSTER/data.new"
    (umask 077; random_word > "$home/owner-password"; random_word > "$home/app-password"; cp "$home/owner-password" "$CLUSTER/pwfile") \
        || die "Cannot write to $home: is the disk full?"
    if is_root; then chown -R postgres "$CLUSTER"; fi
    chmod 700 "$CLUSTER"
    if ! as_pg "$PG_BIN/initdb" -D "$CLUSTER/data.new" -U owner --pwfile="$CLUSTER/pwfile" -A scram-sha-256 -E UTF8 --locale=C.UTF-8 >"$home/initdb.log" 2>&1; then
        rm -rf "$CLUSTER/data.new" "$CLUSTER/pwfile"
        tail -n 5 "$home/initdb.log" >&2
        die "The database cluster could not be made; the reason is above and in $home/initdb.log."
    fi
    rm -f "$CLUSTER/pwfile"
    mv "$CLUSTER/data.new" "$CLUSTER/data" || die "Cannot write to $CLUSTER."
}

port_is_taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

# The status an address on this machine answers with; nothing where nobody answers.
http_status() {
    local line
    { exec 3<>"/dev/tcp/127.0.0.1/$1"; } 2>/dev/null || return 0
    printf 'GET %s HTTP/1.0\r\nHost: localhost\r\n\r\n' "$2" >&3
    read -r -t 20 line <&3
    exec 3>&- 3<&-
    set -- $line
    printf '%s' "${2:-}"
}

# Below the ports that the system hands to outgoing connections: one of those may hold a port that nobody listens on.
free_port() {
    local port
    while :; do
        port=$((20000 + RANDOM % 12000))
        port_is_taken "$port" || { printf '%s' "$port"; return; }
    done
}

sql() { PGPASSWORD=$(cat "$CLUSTER_HOME/owner-password") "$PG_BIN/psql" -X -q -A -t -v ON_ERROR_STOP=1 -h 127.0.0.1 -p "$PG_PORT" -U owner -d "$1" -c "$2"; }

cluster_answers() { [ -n "${ELSEWHERE:-}" ] || { [ -n "${PG_PORT:-}" ] && sql postgres "select 1" >/dev/null 2>&1; }; }

cluster_start() {
    local mode=$1 tries options
    [ -z "${ELSEWHERE:-}" ] || return 0
    PG_PORT=$(cat "$CLUSTER_HOME/pg-port" 2>/dev/null || true)
    # Left over from a start that was killed: it is whole, so it is used.
    if cluster_answers; then return; fi
    for tries in 1 2 3 4 5 6 7 8 9 10; do
        if [ -z "$PG_PORT" ] || port_is_taken "$PG_PORT"; then PG_PORT=$(free_port); fi
        options="-c listen_addresses=127.0.0.1 -p $PG_PORT -c unix_socket_directories=''"
        if [ "$mode" = fast ]; then options="$options -c fsync=off -c synchronous_commit=off -c full_page_writes=off -c max_connections=200"; fi
        # The log is opened by postgres itself, and the lock of start (descriptor 9) is not handed down.
        if as_pg "$PG_BIN/pg_ctl" -D "$CLUSTER/data" -l "$CLUSTER/log" -w -t 30 -o "$options" start >/dev/null 2>&1 9>&-; then
            printf '%s\n' "$PG_PORT" > "$CLUSTER_HOME/pg-port"
            cluster_answers && return
        fi
        # After a kill -9 the old server can linger for a moment; its port may also have been taken meanwhile,
        # by something that does not answer on it, so the next try is made on another.
        if as_pg tail -n 4 "$CLUSTER/log" 2>/dev/null | grep -q "could not create any TCP/IP sockets"; then PG_PORT=""; fi
        sleep 0.5
    done
    as_pg tail -n 8 "$CLUSTER/log" >&2 2>/dev/null
    die "The database did not start; the last lines of its log are above ($CLUSTER/log). Is the disk full?"
}

cluster_stop() {
    if [ -n "${CLUSTER:-}" ] && [ -e "$CLUSTER/data/postmaster.pid" ]; then
        as_pg "$PG_BIN/pg_ctl" -D "$CLUSTER/data" -m fast -w -t 30 stop >/dev/null 2>&1
    fi
}

elsewhere() {
    [ -r "$1" ] || die "$1 cannot be read: it names the database on another machine. Its two lines are in docs/operations.md."
    # Two passwords are in it.
    case $(stat -L -c %A "$1") in ???????---) ;; *) die "$1 holds passwords and everybody on this machine can read it: chmod o-rwx $1" ;; esac
    ELSEWHERE_OWNER=$(sed -n 's/^OWNER=//p' "$1") ELSEWHERE_APP=$(sed -n 's/^APP=//p' "$1")
    [ -n "$ELSEWHERE_OWNER" ] && [ -n "$ELSEWHERE_APP" ] || die "$1 needs two lines, OWNER=… and APP=…, each with a connection string, as in OWNER=Host=db.yard.internal;Database=zandrik;Username=zandrik_owner;Password=…"
    ELSEWHERE=$1
    # Of what is here only the tools are used; the newest knows the most servers.
    PG_BIN=$(ls -d /usr/lib/postgresql/*/bin/pg_dump 2>/dev/null | sort -rV | head -n 1) PG_BIN=${PG_BIN%/*}
}

owner_db() { [ -z "${ELSEWHERE:-}" ] || { printf '%s' "$ELSEWHERE_OWNER"; return; }; printf 'Host=127.0.0.1;Port=%s;Database=%s;Username=owner;Password=%s' "$PG_PORT" "$1" "$(cat "$CLUSTER_HOME/owner-password")"; }
app_db() { [ -z "${ELSEWHERE:-}" ] || { printf '%s' "$ELSEWHERE_APP"; return; }; printf 'Host=127.0.0.1;Port=%s;Database=%s;Username=zandrik;Password=%s' "$PG_PORT" "$1" "$(cat "$CLUSTER_HOME/app-password")"; }

# The application's plain role: a superuser would see through row-level security.
ensure_app_role() {
    [ -z "${ELSEWHERE:-}" ] || return 0
    sql postgres "do \$\$ begin
        if not exists (select 1 from pg_roles where rolname = 'zandrik') then create role zandrik login nosuperuser nocreatedb nocreaterole; end if;
    end \$\$; alter role zandrik password '$(cat "$CLUSTER_HOME/app-password")'" || die "The application's database role could not be made."
}
