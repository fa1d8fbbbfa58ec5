"""A private MariaDB for this project alone: own data folder, own loopback port, generated password, never the system's
service.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

import pymysql

SCHEMA = "tenugui"
START_SECONDS = 60


@dataclass(frozen=True)
class Address:
    """Where the database listens and how to get in."""

    port: int
    password: str
    database: str = SCHEMA
    host: str = "127.0.0.1"
    user: str = SCHEMA


def die_with_parent() -> None:
    """A killed launcher must not leave a database running: ask the kernel to end it too (prctl PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)


def tell(text: str) -> None:
    """A line for the person at the terminal."""
    print(text, file=sys.stderr, flush=True)


def named(name: str) -> None:
    """Give this process a name of up to 15 characters by which people find it (prctl PR_SET_NAME)."""
    ctypes.CDLL(None).prctl(15, name.encode()[:15])


def _free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class InUse(RuntimeError):
    """The folder's database is another process's."""


class DatabaseServer:
    """Starts and stops the server whose files lie in `folder`; one process at a time has it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder.resolve()
        self._process: subprocess.Popen[bytes] | None = None
        self._lock: int | None = None

    def take(self) -> None:
        """Keep every other process of ours away, for as long as this one lives: the kernel lets go of the lock with it.

        Raises:
            InUse: another has it.
        """
        if self._lock is not None:
            return
        lock = os.open(self.folder / "lock", os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as held:
            os.close(lock)
            raise InUse(f"The bench in {self.folder.parent} is running. Stop it first.") from held
        self._lock = lock

    def leave(self) -> None:
        """Let others have the folder."""
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def running(self) -> Address | None:
        """Where the folder's server listens, if it runs: its pid file names it, its command line proves that it is ours
        and says where.
        """
        process = self._process_of_ours()
        if process is None:
            return None
        port = next((w.partition("=")[2] for w in process[1] if w.startswith("--port=")), "")
        return Address(int(port), self._password()) if port.isdigit() else None

    def _process_of_ours(self) -> tuple[int, list[str]] | None:
        try:
            pid = int((self.folder / "pid").read_text())
            words = Path(f"/proc/{pid}/cmdline").read_text().split("\0")
        except (FileNotFoundError, ProcessLookupError, ValueError):
            return None
        return (pid, words) if f"--datadir={self.folder / 'data'}" in words else None

    def _password(self) -> str:
        file = self.folder / "password"
        if not file.exists():
            with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as handle:
                handle.write(secrets.token_urlsafe(24))
        return file.read_text()

    def start(self, port: int | None = None) -> Address:
        """Create the data folder if it is missing, recover what a crash left, start, and wait until it answers.

        Raises:
            InUse: another process has started it.
        """
        self.folder.mkdir(parents=True, exist_ok=True)
        os.chmod(self.folder, 0o700)
        again = self._lock is not None
        self.take()
        try:
            return self._start(port)
        except BaseException:
            if not again:  # one that went away is tried again, and is ours meanwhile
                self.stop()
            raise

    def _start(self, port: int | None) -> Address:
        data = self.folder / "data"
        # Of its own: two servers that are created at once would take away each other's temporary tables.
        spare = self.folder / "tmp"
        spare.mkdir(exist_ok=True)
        me = ["--user=root"] if os.geteuid() == 0 else []
        if not (data / "mysql").is_dir():
            self._clear(data)
            ended = subprocess.run(
                [
                    "mariadb-install-db",
                    "--no-defaults",
                    f"--datadir={data}",
                    f"--tmpdir={spare}",
                    "--auth-root-authentication-method=normal",
                    "--skip-test-db",
                    *me,
                ],
                capture_output=True,
                text=True,
            )
            if ended.returncode:
                raise RuntimeError(
                    f"The database could not be created in {data}:\n{ended.stdout[-800:]}{ended.stderr[-800:]}"
                )
        self._end_leftover()
        address = Address(port or _free_port(), self._password())
        setup = self.folder / "setup.sql"
        with os.fdopen(os.open(setup, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as handle:
            handle.write(
                f"CREATE DATABASE IF NOT EXISTS {SCHEMA} CHARACTER SET utf8mb4;\n"
                f"CREATE USER IF NOT EXISTS '{address.user}'@'127.0.0.1' IDENTIFIED BY '{address.password}';\n"
                f"ALTER USER '{address.user}'@'127.0.0.1' IDENTIFIED BY '{address.password}';\n"
                f"GRANT ALL ON {SCHEMA}.* TO '{address.user}'@'127.0.0.1';\n"
                f"ALTER USER 'root'@'localhost' IDENTIFIED BY '{address.password}';\n"
            )
        with open(self.folder / "log", "ab") as log:
            self._process = subprocess.Popen(
                [
                    shutil.which("mariadbd") or "/usr/sbin/mariadbd",
                    "--no-defaults",
                    *me,
                    f"--datadir={data}",
                    f"--tmpdir={spare}",
                    "--bind-address=127.0.0.1",
                    f"--port={address.port}",
                    f"--socket={self._socket()}",
                    f"--pid-file={self.folder / 'pid'}",
                    f"--init-file={setup}",
                    "--skip-name-resolve",
                    "--innodb-buffer-pool-size=256M",
                    "--innodb-log-file-size=256M",
                    "--max-allowed-packet=64M",
                    "--character-set-server=utf8mb4",
                ],
                stdout=log,
                stderr=log,
                start_new_session=True,
                preexec_fn=die_with_parent,
            )
        self._wait(address)
        return address

    def _socket(self) -> str:
        path = str(self.folder / "sock")
        return path if len(path) < 100 else f"/tmp/tenugui-{os.getpid()}.sock"  # a longer path than the kernel takes

    def _end_leftover(self) -> None:
        """End a server of ours that outlived its launcher."""
        process = self._process_of_ours()
        if process is None:
            return
        with contextlib.suppress(ProcessLookupError):
            os.kill(process[0], signal.SIGTERM)
            for _ in range(200):
                os.kill(process[0], 0)
                time.sleep(0.1)

    def _clear(self, data: Path) -> None:
        """Take away what an unfinished first start left; what may hold somebody's work is never deleted."""
        if (data / SCHEMA).exists():
            raise RuntimeError(
                f"The database in {data} lacks its system tables and holds data of the "
                "bench. Nothing was touched: bring the folder 'mysql' back from a copy of"
                " the disk, or move the whole folder away and restore a backup."
            )
        shutil.rmtree(data, ignore_errors=True)

    def _wait(self, address: Address) -> None:
        until = time.monotonic() + START_SECONDS
        while True:
            try:
                pymysql.connect(
                    host=address.host,
                    port=address.port,
                    user=address.user,
                    password=address.password,
                    database=address.database,
                    connect_timeout=2,
                    ssl_disabled=True,
                ).close()
                return
            except pymysql.err.OperationalError as problem:
                ended = self._process is not None and self._process.poll() is not None
                if ended or time.monotonic() > until:
                    tail = (self.folder / "log").read_text(errors="replace")[-1500:]
                    raise RuntimeError(f"The database did not start. The end of its log:\n{tail}") from problem
                time.sleep(0.1)

    def ended(self) -> bool:
        """Whether a started server has gone away without being asked to."""
        return self._process is not None and self._process.poll() is not None

    def stop(self) -> None:
        """End the server and wait for it."""
        if self._process and self._process.poll() is None:
            self._process.terminate()
            try:
                self._process.wait(30)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
        self._process = None
        self.leave()
