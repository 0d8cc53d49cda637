"""A real PostgreSQL server on a free loopback port, for the tests of the log book.

The server comes from Debian's packages (``tools/setup``); where there is none the tests fail, they are not left out.
"""

import os
import shutil
import socket
import subprocess
import tempfile
import time
from pathlib import Path

_START_S = 60


def _programs() -> Path:
    """The folder of the newest server that is installed."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    if on_path is None:
        raise RuntimeError("There is no PostgreSQL server: run `make test`, or install Debian's package postgresql.")
    return Path(on_path).parent


def _as_owner() -> list[str]:
    """A server does not start as root: then it is run as the user whom Debian's package made for it."""
    return ["setpriv", "--reuid=postgres", "--regid=postgres", "--clear-groups"] if os.geteuid() == 0 else []


class Server:
    """One server with its data in a folder of its own."""

    def __init__(self) -> None:
        self._folder = Path(tempfile.mkdtemp(prefix="swaddon-postgresql-"))
        if os.geteuid() == 0:
            shutil.chown(self._folder, "postgres", "postgres")
        self._programs, self._process = _programs(), None
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self._run("initdb", "-D", str(self._data), "-U", "swaddon", "--auth=trust", "--no-sync", "-E", "UTF8")
        self.start()

    @property
    def _data(self) -> Path:
        return self._folder / "data"

    def address(self, database: str = "postgres") -> str:
        """Where a database of the server is, as ``SWADDON_STORE`` says it."""
        return f"postgresql+psycopg://swaddon@127.0.0.1:{self.port}/{database}"

    def _run(self, program: str, *args: str) -> None:
        done = subprocess.run(
            [*_as_owner(), str(self._programs / program), *args],
            cwd=self._folder,
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode:
            raise RuntimeError(f"{program} failed: {done.stderr or done.stdout}")

    def start(self) -> None:
        """Start it, and wait until it answers."""
        options = f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c fsync=off"
        log = str(self._folder / "log")
        self._run("pg_ctl", "-D", str(self._data), "-o", options, "-l", log, "-w", "-t", str(_START_S), "start")

    def stop(self) -> None:
        """Stop it at once, as a crash would."""
        self._run("pg_ctl", "-D", str(self._data), "-m", "immediate", "stop")

    def new_database(self, name: str) -> str:
        """An empty database; gives its address."""
        import psycopg

        for _ in range(3):
            try:
                with psycopg.connect(
                    f"host=127.0.0.1 port={self.port} user=swaddon dbname=postgres", autocommit=True
                ) as connection:
                    connection.execute(f'CREATE DATABASE "{name}"')
                break
            except psycopg.OperationalError:
                time.sleep(0.5)
        return self.address(name)

    def remove(self) -> None:
        """Stop it and take its folder away."""
        try:
            self.stop()
        finally:
            shutil.rmtree(self._folder, ignore_errors=True)
