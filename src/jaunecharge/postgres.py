"""A private PostgreSQL cluster on loopback, of Debian's packages: made, started, reused, stopped.

The application signs in as an ordinary role that owns its database and nothing else; the superuser only sees to that.
"""

import contextlib
import fcntl
import json
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

if TYPE_CHECKING:
    import psycopg
    from psycopg import sql

SUPERUSER = "jaunecharge"
ROLE = "jaunecharge_app"
DATABASE = "jaunecharge"
SERVER_USER = "postgres"
HOST = "127.0.0.1"
LEFT_BEHIND_S = 20.0


class CannotServe(Exception):
    """Database or port cannot be had; the message says what would mend it."""


@dataclass(frozen=True)
class Access:
    """Address and passwords of a cluster: `password` is the superuser's, `own` that of the application's role."""

    port: int
    password: str
    own: str = ""

    def url(self, database: str = DATABASE) -> str:
        """SQLAlchemy's address of a database of this cluster, for the application."""
        return f"postgresql+psycopg://{ROLE}:{self.own}@{HOST}:{self.port}/{database}"

    def admin_url(self, database: str = "postgres") -> str:
        """The same for the superuser, who makes databases and reads none."""
        return f"postgresql+psycopg://{SUPERUSER}:{self.password}@{HOST}:{self.port}/{database}"


def tools() -> Path:
    """The folder of PostgreSQL's server programs, the newest installed.

    Raises
    ------
    CannotServe
    """
    paths = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_ctl"), key=lambda p: int(p.parts[-3]))
    if paths:
        return paths[-1].parent
    on_path = shutil.which("pg_ctl")
    if on_path is None:
        raise CannotServe("PostgreSQL is not installed: as root, apt-get install postgresql")
    return Path(on_path).resolve().parent


class Cluster:
    """The cluster of one folder. Its server listens on loopback only, and has no socket file.

    One that is not `durable` spares the disk and may be lost with the machine: for data that are thrown away anyhow.
    `but` is a port that is somebody else's, though nothing listens on it yet.
    """

    def __init__(self, folder: Path, durable: bool = True, but: int | None = None) -> None:
        self.folder = folder
        self._but = but
        self.durable = durable
        self.data = folder / "data"
        self._access = folder / "access.json"
        self._owner = folder / "owner"
        self._used: IO[str] | None = None

    def start(self) -> bool:
        """Make the cluster if it is missing and start it if it is not running; True if it is this process's to stop.

        That is so if this call started it, or a process did that is gone without having stopped it.

        Raises
        ------
        CannotServe
        """
        self.folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            _let_pass(self.folder)
        with self._locked():
            if self._used is None:
                self._used = (self.folder / "users").open("w")
            fcntl.flock(self._used, fcntl.LOCK_SH)
            if not (self.data / "PG_VERSION").exists():
                self._make()
            started = self._started_now()
            mine = started or not self._owner_lives()
            if mine:
                self._owner.write_text(str(os.getpid()))
            if started or not self.access().own:
                self._prepare()
        return mine

    def _started_now(self) -> bool:
        """Start the server unless it runs and answers; whether this call has started it.

        One that was killed a moment ago may look as if it ran, and what it left behind may still be in use.

        Raises
        ------
        CannotServe
        """
        until = time.monotonic() + LEFT_BEHIND_S
        while True:
            if self.running():
                if self._listens():
                    return False
            else:
                try:
                    self._start_server()
                    return True
                except CannotServe:
                    if time.monotonic() > until:
                        raise
            if time.monotonic() > until:
                raise CannotServe(f"the database server in {self.folder} neither runs nor ends: end it by hand")
            time.sleep(0.1)

    def _listens(self) -> bool:
        with socket.socket() as probe:
            probe.settimeout(1.0)
            return probe.connect_ex((HOST, self.access().port)) == 0

    def _owner_lives(self) -> bool:
        """Whether the process that started the server still runs; so assumed where none is noted."""
        try:
            os.kill(int(self._owner.read_text()), 0)
        except ProcessLookupError:
            return False
        except (OSError, ValueError):
            return True
        return True

    def running(self) -> bool:
        """Whether its server runs."""
        return (self.data / "postmaster.pid").exists() and self._run(
            "pg_ctl", "status", "-D", self.data
        ).returncode == 0

    def alive(self) -> bool:
        """Whether its server's process is there: quicker than `running`, and no more than that."""
        try:
            os.kill(int((self.data / "postmaster.pid").read_text().split()[0]), 0)
        except (ProcessLookupError, OSError, ValueError, IndexError) as error:
            return isinstance(error, PermissionError)
        return True

    def start_again(self) -> bool:
        """Start the server that was killed, on its own port; whether that has succeeded.

        What it left behind may still be in use for a moment: then it has to be tried again.
        """
        with self._locked():
            if self.alive() and self.running():
                return True
            if not is_free(self.access().port):
                return False
            try:
                self._start_server()
            except CannotServe:
                return False
            return True

    def stop(self) -> None:
        """Stop the server, connections that are left included."""
        if self.running():
            self._run("pg_ctl", "stop", "-D", self.data, "-m", "fast", "-w", "-t", "30")
        if self._used is not None:
            self._used.close()
            self._used = None

    def leave(self) -> None:
        """Use the server no more; whoever is the last to leave stops it."""
        if self._used is None:
            return
        used, self._used = self._used, None
        with self._locked(), used:
            fcntl.flock(used, fcntl.LOCK_UN)
            with contextlib.suppress(BlockingIOError):
                # It can be had alone only once no other process uses the server; those that were killed do not.
                fcntl.flock(used, fcntl.LOCK_EX | fcntl.LOCK_NB)
                self.stop()

    def access(self) -> Access:
        """Port and password.

        Raises
        ------
        CannotServe
            If the cluster was never made.
        """
        try:
            return Access(**json.loads(self._access.read_text()))
        except OSError as error:
            raise CannotServe(f"there is no database cluster in {self.folder}") from error

    @contextmanager
    def _locked(self) -> Iterator[None]:
        with (self.folder / "lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _make(self) -> None:
        if self.data.exists():
            shutil.rmtree(self.data)
        self.data.mkdir(mode=0o700)
        if os.geteuid() == 0:
            server = pwd.getpwnam(SERVER_USER)
            os.chown(self.data, server.pw_uid, server.pw_gid)
        password = secrets.token_urlsafe(24)
        with tempfile.NamedTemporaryFile("w", dir=self.data.parent) as file:
            file.write(password)
            file.flush()
            os.chmod(file.name, 0o600)
            if os.geteuid() == 0:
                os.chown(file.name, server.pw_uid, server.pw_gid)
            done = self._run(
                "initdb", "-D", self.data, "-U", SUPERUSER, "--pwfile", file.name, "--auth", "scram-sha-256",
                "--encoding", "UTF8", "--locale", "C.UTF-8", *([] if self.durable else ["--no-sync"]),
            )  # fmt: skip
        if done.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            raise CannotServe(f"the database cluster could not be made in {self.folder}: {done.stderr.strip()}")
        self._keep(Access(_free_port(self._but), password, secrets.token_urlsafe(24)))

    def _keep(self, access: Access) -> None:
        self._access.touch(mode=0o600)
        self._access.write_text(json.dumps(access.__dict__))

    def _start_server(self) -> None:
        access = self.access()
        if access.port == self._but or not is_free(access.port):
            access = replace(access, port=_free_port(self._but))
            self._keep(access)
        sync = "" if self.durable else " -c fsync=off"
        options = f"-p {access.port} -c listen_addresses={HOST} -c unix_socket_directories='' -c max_wal_size=2GB{sync}"
        done = self._run(
            "pg_ctl", "start", "-D", self.data, "-l", self.data / "server.log", "-o", options, "-w", "-t", "60"
        )
        if done.returncode:
            log = self._run("tail", "-n", "5", self.data / "server.log", program=False).stdout
            raise CannotServe(f"the database server did not start: {done.stdout.strip()} {log.strip()}")

    def _prepare(self) -> None:
        """See that the application's role is there and owns its database, and that it may do nothing else."""
        import psycopg
        from psycopg import sql

        access = self.access()
        if not access.own:
            access = replace(access, own=secrets.token_urlsafe(24))
            self._keep(access)
        role, name = sql.Identifier(ROLE), sql.Identifier(DATABASE)
        with psycopg.connect(_plain(access.admin_url()), autocommit=True) as connection:
            there = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (ROLE,)).fetchone()
            connection.execute(
                sql.SQL("{} ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD {}").format(
                    sql.SQL("ALTER" if there else "CREATE"), role, sql.Literal(access.own)
                )
            )
            if not connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", (DATABASE,)).fetchone():
                connection.execute(sql.SQL("CREATE DATABASE {} OWNER {}").format(name, role))
            connection.execute(sql.SQL("ALTER DATABASE {} OWNER TO {}").format(name, role))
            connection.execute(sql.SQL("REVOKE CONNECT ON DATABASE {} FROM PUBLIC").format(name))
        with psycopg.connect(_plain(access.admin_url(DATABASE)), autocommit=True) as connection:
            _hand_over(connection, role)

    def _run(self, name: str, *arguments: object, program: bool = True) -> subprocess.CompletedProcess[str]:
        command = [str(tools() / name) if program else name, *map(str, arguments)]
        if os.geteuid() == 0:
            command = ["runuser", "-u", SERVER_USER, "--", *command]
        # The server must not hold our pipes open, nor die of our Ctrl-C: files for output, a session of its own.
        with tempfile.TemporaryFile("w+") as out, tempfile.TemporaryFile("w+") as err:
            done = subprocess.run(
                command, cwd="/", stdin=subprocess.DEVNULL, stdout=out, stderr=err, start_new_session=True, check=False
            )
            out.seek(0)
            err.seek(0)
            return subprocess.CompletedProcess(command, done.returncode, out.read(), err.read())


def _plain(url: str) -> str:
    """An address as PostgreSQL itself writes it."""
    return url.replace("postgresql+psycopg", "postgresql", 1)


def _hand_over(connection: "psycopg.Connection[Any]", role: "sql.Identifier") -> None:
    """Make a role the owner of all that the application's database holds: once it was the superuser's."""
    from psycopg import sql

    # What `serial` columns count with follows its table.
    owned = connection.execute(
        "SELECT c.relname, c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace"
        " WHERE n.nspname = 'public' AND c.relkind IN ('r', 'p', 'v') AND pg_get_userbyid(c.relowner) <> %s"
        " ORDER BY c.relkind <> 'r'",
        (ROLE,),
    ).fetchall()
    for name, kind in owned:
        what = sql.SQL("VIEW" if kind == "v" else "TABLE")
        connection.execute(sql.SQL("ALTER {} public.{} OWNER TO {}").format(what, sql.Identifier(name), role))
    connection.execute(sql.SQL("ALTER SCHEMA public OWNER TO {}").format(role))


def _let_pass(folder: Path) -> None:
    """Let the server's user pass through folders that are ours alone; the data folder itself stays closed.

    Raises
    ------
    CannotServe
    """
    for part in (folder, *folder.parents):
        if not part.stat().st_mode & 0o001:
            if part.stat().st_uid == 0 and part in (folder, folder.parent):
                part.chmod(part.stat().st_mode | 0o011)
            else:
                raise CannotServe(f"user {SERVER_USER} cannot enter {part}: set JAUNECHARGE_STATE to another folder")


def is_free(port: int) -> bool:
    """Whether nothing listens on a port of this machine."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return False
        return True


def _free_port(but: int | None) -> int:
    with socket.socket() as probe, socket.socket() as another:
        probe.bind((HOST, 0))
        port = int(probe.getsockname()[1])
        if port != but:
            return port
        another.bind((HOST, 0))
        return int(another.getsockname()[1])
