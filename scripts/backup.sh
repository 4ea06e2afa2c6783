# Backups of a folder of data. Sourced after cluster.sh and app.sh.
#
#   backup_command VERB ARGUMENT…  runs the application's backup, restore or verify on the cluster that is up
#   backup_is_due DIR              true when a backup belongs onto the shelf now

backup_command() {
    ZANDRIK_OWNER_DB=$(owner_db zandrik) ZANDRIK_DB=$(app_db zandrik) ZANDRIK_PG_BIN=$PG_BIN ZANDRIK_TLS_DIR=$CLUSTER_HOME/tls \
        nice -n 10 dotnet "$APP/Zandrik.Web.dll" "$@"
}

# At night, once a day; a machine that is off at night makes it when the last one is older than a day and two hours.
backup_is_due() {
    local newest age
    newest=$(ls -1 "$1"/*.zandrik-backup 2>/dev/null | tail -n 1)
    # Before the first one the age of the data counts: of the database here, or of the folder that works on one elsewhere.
    local made=$CLUSTER_HOME/owner-password
    [ -z "${ELSEWHERE:-}" ] || made=$CLUSTER_HOME/tls/ring.key
    age=$(( $(date +%s) - $(stat -c %Y "${newest:-$made}" 2>/dev/null || date +%s) ))
    [ "$age" -gt 93600 ] || { [ "$(date +%H)" = 03 ] && [ "$age" -gt 72000 ]; }
}
