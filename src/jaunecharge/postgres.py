"""A private PostgreSQL cluster on loopback, of Debian's packages: made, started, reused, stopped."""

import fcntl
import json
import os
import pwd
import secrets
import shutil
import socket
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

SUPERUSER = "jaunecharge"
DATABASE = "jaunecharge"
SERVER_USER = "postgres"
HOST = "127.0.0.1"


class CannotServe(Exception):
    """Database or port cannot be had; the message says what would mend it."""


@dataclass(frozen=True)
class Access:
    """How a cluster is reached."""

    port: int
    password: str

    def url(self, database: str = DATABASE) -> str:
        """SQLAlchemy's address of a database of this cluster."""
        return f"postgresql+psycopg://{SUPERUSER}:{self.password}@{HOST}:{self.port}/{database}"


def tools() -> Path:
    """The folder of PostgreSQL's server programs, the newest installed.

    Raises
    ------
    CannotServe
    """
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_ctl"), key=lambda p: int(p.parts[-3]))
    if found:
        return found[-1].parent
    on_path = shutil.which("pg_ctl")
    if on_path is None:
        raise CannotServe("PostgreSQL is not installed: as root, apt-get install postgresql")
    return Path(on_path).resolve().parent


class Cluster:
    """The cluster of one folder. Its server listens on loopback only, and has no socket file.

    One that is not `durable` spares the disk and may be lost with the machine: for data that are thrown away anyhow.
    """

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder
        self.durable = durable
        self.data = folder / "data"
        self._access = folder / "access.json"
        self._owner = folder / "owner"

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
            if not (self.data / "PG_VERSION").exists():
                self._make()
            if self.running():
                if self._owner_lives():
                    return False
                self._owner.write_text(str(os.getpid()))
                return True
            self._start_server()
            self._owner.write_text(str(os.getpid()))
        self._create_database()
        return True

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
        self._keep(Access(_free_port(), password))

    def _keep(self, access: Access) -> None:
        self._access.touch(mode=0o600)
        self._access.write_text(json.dumps(access.__dict__))

    def _start_server(self) -> None:
        access = self.access()
        if not is_free(access.port):
            access = Access(_free_port(), access.password)
            self._keep(access)
        sync = "" if self.durable else " -c fsync=off"
        options = f"-p {access.port} -c listen_addresses={HOST} -c unix_socket_directories='' -c max_wal_size=2GB{sync}"
        done = self._run(
            "pg_ctl", "start", "-D", self.data, "-l", self.data / "server.log", "-o", options, "-w", "-t", "60"
        )
        if done.returncode:
            log = self._run("tail", "-n", "5", self.data / "server.log", program=False).stdout
            raise CannotServe(f"the database server did not start: {done.stdout.strip()} {log.strip()}")

    def _create_database(self) -> None:
        import psycopg

        access = self.access()
        with psycopg.connect(
            host=HOST, port=access.port, user=SUPERUSER, password=access.password, dbname="postgres", autocommit=True
        ) as connection:
            there = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", (DATABASE,)).fetchone()
            if not there:
                connection.execute(f"CREATE DATABASE {DATABASE}")

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


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        return int(probe.getsockname()[1])
