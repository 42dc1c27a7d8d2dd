"""The application as a process of its own, with a cluster of its own: to be killed, and started again."""

import contextlib
import os
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import httpx

from jaunecharge.postgres import Cluster
from jaunecharge.settings import Settings
from tests.ports import free_port

COMMAND = Path(sys.executable).with_name("jaunecharge")


class Served:
    """The application in a process of its own, with a cluster of its own; killed and started as the test likes."""

    def __init__(self, folder):
        self.folder, self.port = folder, free_port()
        self.environment = {
            **os.environ, "JAUNECHARGE_PORT": str(self.port), "JAUNECHARGE_STATE": str(folder / "state"),
        }  # fmt: skip
        self.environment.pop("JAUNECHARGE_DATABASE_URL", None)
        self.address = f"http://127.0.0.1:{self.port}"
        self.process = None
        self.log = (folder / "log").open("a+")

    def start(self, *options):
        self.process = subprocess.Popen(
            [COMMAND, "serve", *options],
            env=self.environment,
            stdout=self.log,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )

    def answers(self):
        with contextlib.suppress(httpx.HTTPError):
            return httpx.get(f"{self.address}/api/health", timeout=5).status_code == 200
        return False

    def kill(self):
        self.process.send_signal(signal.SIGKILL)
        self.process.wait(60)

    @property
    def cluster(self):
        return Cluster(Settings(state=self.folder / "state").cluster)

    def kill_database(self):
        os.kill(int((self.cluster.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)

    def stop(self):
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            self.process.wait(120)
        cluster = self.cluster
        cluster.stop()
        shutil.rmtree(cluster.folder.parent, ignore_errors=True)
        self.log.close()
