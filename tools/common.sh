# Shared by ./run and ./test: finding what is needed, and a PostgreSQL of our own on loopback.
# Sourced, not run.

say() { printf '%s\n' "$*"; }
fail() { printf '%s\n' "$*" >&2; exit 1; }

need_dotnet() {
  command -v dotnet >/dev/null 2>&1 || fail "The .NET 10 SDK is missing. Install it so that 'dotnet --version' answers 10.0.100 or later, then start again."
  dotnet --version >/dev/null 2>&1 || fail "The .NET SDK found here is too old or broken: $(dotnet --version 2>&1 | tail -n 1) Install .NET SDK 10.0.100 or later."
}

# Installs Debian packages that are missing; as an ordinary user it says what to install.
need_packages() {
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  [ "$(id -u)" = 0 ] || fail "Missing: ${missing[*]}. Install them as root: apt-get install ${missing[*]}"
  command -v apt-get >/dev/null 2>&1 || fail "Missing: ${missing[*]}. This is not Debian; install them by hand."
  say "Installing ${missing[*]} …"
  if [[ " ${missing[*]} " == *" postgresql "* ]]; then
    # Only the programs are wanted, not a cluster that starts by itself.
    mkdir -p /etc/postgresql-common
    grep -qs '^create_main_cluster' /etc/postgresql-common/createcluster.conf || printf 'create_main_cluster = false\n' >> /etc/postgresql-common/createcluster.conf
  fi
  local log
  log=$(mktemp)
  { apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "${missing[@]}"; } >"$log" 2>&1 \
    || fail "Installing ${missing[*]} failed: $(tail -n 1 "$log") The whole output is in $log."
  rm -f "$log"
}

# The application as it is started: published, compiled ahead of time.
app="$here/src/Screeline.Web/bin/ready/Screeline.Web.dll"

# Builds a project or the solution, in the release configuration; the compiler stays warm from one project to the next and ends with the build.
build() {
  local id="screeline-$$-$RANDOM" status
  dotnet build "$1" -c Release --no-restore --nologo -v quiet -nodeReuse:false -p:UseSharedCompilation=true -p:SharedCompilationId="$id"
  status=$?
  pkill -f -- "-pipename:$id" 2>/dev/null
  return $status
}

# Publishes what was built.
publish() {
  dotnet publish "$here/src/Screeline.Web/Screeline.Web.csproj" -c Release --no-build --nologo -v quiet -nodeReuse:false -o "$(dirname "$app")" && touch "$app"
}

# Where the newest PostgreSQL server's programs are.
postgres_programs() {
  local folder
  folder=$(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -V | tail -n 1)
  [ -n "$folder" ] && [ -x "$folder/initdb" ] || return 1
  printf '%s' "$folder"
}

# The user the server runs as: it refuses root.
postgres_user() {
  if [ "$(id -u)" = 0 ]; then printf 'postgres'; else id -un; fi
}

as_postgres() {
  if [ "$(id -u)" = 0 ]; then (cd / && runuser -u postgres -- env LC_ALL=C "$@"); else LC_ALL=C "$@"; fi
}

port_is_free() { ! (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

free_port() {
  local port
  for port in $(seq "$1" $(($1 + 200))); do
    if port_is_free "$port"; then printf '%s' "$port"; return 0; fi
  done
  return 1
}

secret() { od -An -N24 -tx1 /dev/urandom | tr -d ' \n'; }

# Makes a data folder: make_cluster FOLDER OWNER_PASSWORD
make_cluster() {
  local folder=$1 password_file
  password_file=$(mktemp)
  printf '%s\n' "$2" > "$password_file"
  chmod 600 "$password_file"
  [ "$(id -u)" = 0 ] && chown postgres "$password_file"
  as_postgres "$programs/initdb" -D "$folder" -U screeline_owner --pwfile="$password_file" -A scram-sha-256 -E UTF8 --locale=C.UTF-8 >"$folder.log" 2>&1 \
    || fail "PostgreSQL could not make its data folder $folder: $(tail -n 1 "$folder.log")"
  rm -f "$password_file"
}

# Starts it: start_cluster FOLDER PORT SOCKETS [server options]
start_cluster() {
  local folder=$1 port=$2 sockets=$3
  shift 3
  as_postgres "$programs/pg_ctl" -D "$folder" -w -t 60 -l "$folder/server.log" \
    -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories='$sockets' $*" start >/dev/null 2>&1 \
    || fail "PostgreSQL did not start: $(tail -n 1 "$folder/server.log" 2>/dev/null) The log is $folder/server.log."
}

stop_cluster() { as_postgres "$programs/pg_ctl" -D "$1" -m fast -w -t 30 stop >/dev/null 2>&1; }

sql() { PGPASSWORD=$1 "$programs/psql" -X -q -v ON_ERROR_STOP=1 -h 127.0.0.1 -p "$2" -U screeline_owner -d "$3" -c "$4"; }
