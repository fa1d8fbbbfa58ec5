"""Backup and restore: the whole database as one SQL file, by MariaDB's own dump."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from .server import Address, DatabaseServer


def _client(program: str, address: Address) -> list[str]:
    return [
        program,
        "--no-defaults",
        f"--host={address.host}",
        f"--port={address.port}",
        "--protocol=tcp",
        f"--user={address.user}",
        "--max-allowed-packet=64M",
    ]


def main(words: list[str]) -> int:
    """`backup FILE` or `restore FILE`; the application must not be running."""
    if len(words) != 2 or words[0] not in ("backup", "restore"):
        print("usage: ./tenugui backup FILE | restore FILE", file=sys.stderr)
        return 2
    verb, file = words[0], Path(words[1])
    if verb == "restore" and not file.is_file():
        print(f"tenugui: there is no file {file}.", file=sys.stderr)
        return 2
    server = DatabaseServer(Path(os.environ["TENUGUI_STATE"]) / "db")
    address = server.start()
    secret = {**os.environ, "MYSQL_PWD": address.password}
    try:
        if verb == "backup":
            with open(file.with_suffix(file.suffix + ".part"), "wb") as out:
                subprocess.run(
                    [
                        *_client("mariadb-dump", address),
                        "--single-transaction",
                        "--hex-blob",
                        "--add-drop-table",
                        address.database,
                    ],
                    stdout=out,
                    env=secret,
                    check=True,
                )
            file.with_suffix(file.suffix + ".part").rename(file)  # a broken backup never has the asked name
        else:
            with open(file, "rb") as source:
                subprocess.run([*_client("mariadb", address), address.database], stdin=source, env=secret, check=True)
    finally:
        server.stop()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
