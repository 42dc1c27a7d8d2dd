"""Starting, stopping, backing up and restoring, as the commands do it, as root and as an ordinary user."""

import contextlib
import json
import os
import pwd
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

from jaunecharge.postgres import Cluster, is_free
from jaunecharge.settings import Settings
from tests.cases import FolderTest
from tests.ports import free_port
from tests.serving import fresh_database

ROOT = Path(__file__).parents[2]
COMMAND = Path(sys.executable).with_name("jaunecharge")


class Serving(FolderTest):
    def setUp(self):
        super().setUp()
        self.port = free_port()
        self.environment = {
            **os.environ, "JAUNECHARGE_STATE": str(self.folder / "state"), "JAUNECHARGE_PORT": str(self.port),
        }  # fmt: skip
        self.folder.chmod(0o755)
        self.cluster = Cluster(Settings(state=self.folder / "state").cluster)
        if not self.cluster.folder.is_relative_to(self.folder):
            self.addCleanup(shutil.rmtree, self.cluster.folder.parent, ignore_errors=True)
        self.addCleanup(lambda: self.cluster.folder.exists() and self.cluster.stop())

    def start(self, *arguments):
        process = subprocess.Popen(
            [COMMAND, "serve", *arguments], env=self.environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.kill)
        until = time.monotonic() + 180
        while time.monotonic() < until and process.poll() is None:
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/health") as answer:
                    self.assertEqual(json.load(answer)["status"], "ok")
                return process
            except (urllib.error.URLError, ConnectionError):
                time.sleep(0.05)
        self.fail(process.stdout.read().decode())

    def post(self, path, body):
        kind = "application/json" if isinstance(body, dict) else "application/octet-stream"
        content = json.dumps(body).encode() if isinstance(body, dict) else body
        address = f"http://127.0.0.1:{self.port}{path}"
        with urllib.request.urlopen(urllib.request.Request(address, content, {"Content-Type": kind})) as answer:
            return json.load(answer)

    def add_run(self):
        meter = b"time_s,volts,amps\n" + b"".join(b"%d,9.0,1.5\n" % t for t in range(300))
        upload = self.post("/api/uploads?name=m.csv", meter)["id"]
        self.post("/api/runs", {"files": [{"upload": upload, "roles": ["meter"]}]})

    def runs(self):
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/api/runs") as answer:
            return json.load(answer)

    def command(self, *arguments):
        return subprocess.run([COMMAND, *arguments], env=self.environment, capture_output=True, text=True, timeout=400)

    def answering(self, process):
        """Processes that answer: those that the first has started to do so."""
        found = []
        for place in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):
                parent = int((place / "stat").read_text().rpartition(")")[2].split()[1])
                if parent == process.pid and b"spawn_main" in (place / "cmdline").read_bytes():
                    found.append(int(place.name))
        return sorted(found)

    def test_two_processes_answer_on_one_port_and_one_that_dies_is_started_again(self):
        process = self.start("--processes", "2")
        self.add_run()
        first = self.answering(process)
        self.assertEqual(len(first), 2)
        os.kill(first[0], signal.SIGKILL)
        until = time.monotonic() + 120
        while time.monotonic() < until and (len(now := self.answering(process)) < 2 or first[0] in now):
            time.sleep(0.1)
        self.assertEqual((len(now), first[1] in now), (2, True))
        self.assertEqual([len(self.runs()) for _ in range(6)], [1] * 6)
        process.send_signal(signal.SIGHUP)
        self.assertEqual(process.wait(timeout=120), 0)
        self.assertFalse(self.cluster.running())

    def test_processes_end_with_the_first_however_that_ends(self):
        process = self.start("--processes", "2")
        process.kill()
        process.wait(60)
        until = time.monotonic() + 60
        while time.monotonic() < until and not is_free(self.port):
            time.sleep(0.1)
        self.assertTrue(is_free(self.port))
        again = self.start()
        again.send_signal(signal.SIGINT)
        self.assertEqual(again.wait(timeout=120), 0)

    def test_behind_a_proxy_everybody_signs_in_at_its_address(self):
        self.environment["JAUNECHARGE_PASSPHRASE"] = "three yellow lamps"
        process = self.start("--behind", "https://bench.example")

        def status(path, **headers):
            request = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", headers=headers)
            try:
                with urllib.request.urlopen(request) as answer:
                    return answer.status
            except urllib.error.HTTPError as error:
                return error.code

        proxied = {"Host": "bench.example", "X-Forwarded-For": "192.0.2.9", "X-Forwarded-Proto": "https"}
        self.assertEqual(status("/api/network", **proxied), 200)
        self.assertEqual(status("/api/runs", **proxied), 401)
        self.assertEqual(status("/api/runs", **{**proxied, "Host": "elsewhere.example"}), 403)
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(timeout=120), 0)
        refused = self.command("serve", "--behind", "bench.example")
        self.assertEqual((refused.returncode, len(refused.stderr.splitlines())), (2, 1))
        self.assertIn("no address of a proxy", refused.stderr)

    def test_each_way_of_stopping_stops_the_database_as_well(self):
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            with self.subTest(number):
                process = self.start()
                process.send_signal(number)
                self.assertEqual(process.wait(timeout=120), 0)
                self.assertFalse(self.cluster.running())

    def test_two_on_one_state_folder_leave_nothing_behind(self):
        first = self.start()
        self.add_run()
        self.port = free_port()
        self.environment["JAUNECHARGE_PORT"] = str(self.port)
        second = self.start()
        first.send_signal(signal.SIGTERM)
        self.assertEqual(first.wait(timeout=120), 0)
        self.assertEqual(len(self.runs()), 1, "the one that is left goes on")
        done = self.command("backup", str(self.folder / "all.backup"))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(len(self.runs()), 1, "so it does after a command that used the server as well")
        second.send_signal(signal.SIGTERM)
        self.assertEqual(second.wait(timeout=120), 0)
        self.assertFalse(self.cluster.running())

    def test_stopping_while_a_schedule_is_sought_stops_the_database_as_well(self):
        process = self.start()
        lines = [f"phone Phone{i} 4{i}00mAh mpp" for i in range(3)] + [f"puck Disc{i} mpp" for i in range(4)]
        ids = [
            self.post("/api/kit/line", {"line": x, "keep": True})["kept"]["id"] for x in (*lines, "adapter Plug 20W")
        ]
        choice = {"phones": ids[:3], "chargers": [{"id": i} for i in ids[3:7]], "adapter": ids[7], "repeats": 2}
        wishes = {"start": "2027-03-01T08:00", "attended": [{}], "meters": 2}
        plan = self.post("/api/plans", {"card": {"name": "x"}, "choice": choice, "wishes": wishes})
        address = f"http://127.0.0.1:{self.port}/api/plans/{plan['id']}/improved?seconds=100"
        with urllib.request.urlopen(urllib.request.Request(address, b"", method="POST")) as answer:
            # Until the solver is at work: it must leave the signal to the application.
            while json.loads(answer.readline())["fraction"] < 0.02:
                pass
            process.send_signal(signal.SIGINT)
            self.assertEqual(process.wait(timeout=120), 0)
        self.assertFalse(self.cluster.running())

    def test_backup_and_restore_by_command(self):
        process = self.start()
        self.add_run()
        ids = {r["id"] for r in self.runs()}
        self.assertEqual(len(ids), 1)
        done = self.command("backup", str(self.folder / "all.backup"))
        self.assertEqual(done.returncode, 0, done.stderr)
        gone = next(iter(ids))
        request = urllib.request.Request(f"http://127.0.0.1:{self.port}/api/runs/{gone}", method="DELETE")
        urllib.request.urlopen(request).close()
        self.assertNotIn(gone, {r["id"] for r in self.runs()})
        done = self.command("restore", str(self.folder / "all.backup"))
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual({r["id"] for r in self.runs()}, ids)
        self.assertTrue((self.folder / "all.backup.before-restore").exists())
        done = self.command("restore", str(self.folder / "all.backup"))
        self.assertTrue((self.folder / "all.backup.before-restore-2").exists(), "the older one stays")
        done = self.command("restore", str(self.folder / "none.backup"))
        self.assertEqual((done.returncode, done.stderr.count("no such file")), (2, 1))
        process.send_signal(signal.SIGTERM)
        process.wait(timeout=120)

    def test_a_port_that_is_taken_is_said(self):
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", self.port))
            taken.listen()
            done = self.command("serve")
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("JAUNECHARGE_PORT", done.stderr)
        self.assertFalse(self.cluster.running())


class OrdinaryUser(FolderTest):
    """As the user who runs the tests, or as `nobody` where that is root."""

    def test_makes_starts_and_stops_a_cluster_of_their_own(self):
        self.folder.chmod(0o755)
        home = self.folder / "home"
        home.mkdir()
        other = {}
        if os.geteuid() == 0:
            nobody = pwd.getpwnam("nobody")
            os.chown(home, nobody.pw_uid, nobody.pw_gid)
            other = {"user": nobody.pw_uid, "group": nobody.pw_gid, "extra_groups": []}
        source = Path(__file__).parents[2] / "src" / "jaunecharge" / "postgres.py"
        shutil.copy(source, self.folder / "postgres_alone.py")
        script = (
            "import sys; sys.path.insert(0, sys.argv[2])\n"
            "from pathlib import Path\n"
            "import postgres_alone as p\n"
            "p.Cluster._prepare = lambda self: None\n"
            "c = p.Cluster(Path(sys.argv[1]) / 'postgres')\n"
            "print(c.start(), c.running()); c.stop(); print(c.running())\n"
        )
        # The system's Python: another user may not be allowed into the folder of this one.
        python = shutil.which("python3", path="/usr/bin:/usr/local/bin") or sys.executable
        done = subprocess.run(
            [python, "-c", script, home, self.folder],
            env={"PATH": "/usr/bin:/bin", "HOME": str(home)},
            cwd="/",
            capture_output=True,
            text=True,
            timeout=400,
            **other,
        )
        self.assertEqual(done.stdout.split(), ["True", "True", "False"], done.stderr)


class WhereTheClusterLies(FolderTest):
    def test_in_the_state_folder_or_beside_it_where_root_serves(self):
        found = Settings(state=self.folder / "state").cluster
        if os.geteuid() == 0:
            self.assertEqual(found.parts[:3], ("/", "var", "lib"))
            self.assertNotEqual(found, Settings(state=self.folder / "other").cluster)
        else:
            self.assertEqual(found, self.folder / "state" / "postgres")

    def test_one_that_lies_in_the_state_folder_stays_there(self):
        inside = self.folder / "state" / "postgres"
        (inside / "data").mkdir(parents=True)
        self.assertEqual(Settings(state=self.folder / "state").cluster, inside)

    def test_the_state_is_for_its_owner_alone(self):
        state = self.folder / "state"
        script = (
            "import sys; from pathlib import Path; from jaunecharge.settings import Settings\n"
            "s = Settings(state=Path(sys.argv[1])); s.make_state()\n"
            "from jaunecharge.live.spool import Spool; from jaunecharge.store.runs.uploads import Uploads\n"
            "from jaunecharge.store.database import Database\n"
            "from tests.live.test_parts import batch\n"
            "Spool(s.state / 'waiting.sqlite3').put([batch(range(2))])\n"
            "files = Uploads(Database(sys.argv[2]), s.uploads)\n"
            "u = files.begin('x.csv'); u.path.write_text('1'); files.keep(u)\n"
            "u.path.unlink(); assert files.find(u.id).path.read_text() == '1'\n"
        )
        state.mkdir(mode=0o755)
        url = self.enterContext(fresh_database()).engine.url.render_as_string(hide_password=False)
        done = subprocess.run([sys.executable, "-c", script, state, url], capture_output=True, text=True, cwd=ROOT)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(state.stat().st_mode & 0o777, 0o700)
        found = list(state.rglob("*"))
        self.assertGreaterEqual(len(found), 4)
        for path in found:
            self.assertEqual(path.stat().st_mode & 0o077, 0, path)

    def test_a_state_folder_of_ones_own_is_opened_just_enough(self):
        """As `mktemp -d` makes it: closed to all others, below a folder that all may enter."""
        cluster = Cluster(self.folder / "postgres", durable=False)
        self.addCleanup(cluster.stop)
        self.assertTrue(cluster.start())
        self.assertEqual(self.folder.stat().st_mode & 0o077, 0o011 if os.geteuid() == 0 else 0)
        self.assertEqual(cluster.data.stat().st_mode & 0o077, 0)


class AsAService(FolderTest):
    def test_the_unit_is_one_that_systemd_takes(self):
        verify = shutil.which("systemd-analyze")
        unit = (ROOT / "deploy" / "jaunecharge.service").read_text()
        for wanted in ("NoNewPrivileges=yes", "ProtectSystem=strict", "StateDirectoryMode=0700", "Restart=always"):
            self.assertIn(wanted, unit)
        if verify is None:
            return
        # What it starts lies elsewhere here, and its user is not made.
        command = shutil.which("true")
        file = self.file("jaunecharge.service", unit.replace("/opt/jaunecharge/.venv/bin/jaunecharge", command))
        done = subprocess.run([verify, "verify", file], capture_output=True, text=True, timeout=120)
        told = [line for line in done.stderr.splitlines() if "jaunecharge.service" in line]
        self.assertEqual((done.returncode, told), (0, []), done.stderr)
