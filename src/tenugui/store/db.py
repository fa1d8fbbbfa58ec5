"""Connections: a pool, one transaction at a time, and one error when the database is away."""

from __future__ import annotations

import os
import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from pathlib import Path
from typing import Any, ParamSpec, TypeVar
from urllib.parse import quote

import pymysql
from dbutils.pooled_db import PooledDB
from pymysql.cursors import DictCursor
from yoyo import get_backend, read_migrations

from .server import Address

Row = dict[str, Any]
LOST = (2002, 2003, 2006, 2013, 1053, 1927)
"""Error numbers that mean: the server is not there (any more)."""


class StoreError(Exception):
    """Something kept could not be read or written: `code` is stable, `what` and `remedy` are sentences."""

    def __init__(self, code: str, what: str, remedy: str = "", status: int = 404) -> None:
        self.code, self.what, self.remedy, self.status = code, what, remedy, status
        super().__init__(f"{what} {remedy}".strip())


def away(reason: Exception) -> StoreError:
    """The one error for a database that does not answer."""
    error = StoreError(
        "database-away",
        "The database does not answer.",
        "Nothing that was confirmed is lost. The page goes on by itself when it is back.",
        503,
    )
    error.__cause__ = reason
    return error


P = ParamSpec("P")
R = TypeVar("R")
CROSSED = (1205, 1213)
"""Error numbers that mean: two waited for each other, and this one was taken back."""
TRIES, PAUSE_SECONDS = 5, 0.05


def retried(deed: Callable[P, R]) -> Callable[P, R]:
    """A deed of one transaction or of several that may be done again: once more where two crossed in the database, and
    what it had done was taken back.

    Raises:
        StoreError: `busy` where they crossed every time.
    """

    @wraps(deed)
    def again(*args: P.args, **kwargs: P.kwargs) -> R:
        for turn in range(TRIES):
            try:
                return deed(*args, **kwargs)
            except pymysql.err.OperationalError as crossed:
                if not crossed.args or crossed.args[0] not in CROSSED:
                    raise
                if turn == TRIES - 1:
                    raise StoreError(
                        "busy", "The database was busy with others.", "Nothing was changed. Do it again.", 503
                    ) from crossed
            time.sleep(PAUSE_SECONDS * 2**turn * (0.5 + random.random()))
        raise AssertionError  # the last turn returned or raised

    return again


class Store:
    """A pool of connections to one database."""

    def __init__(self, address: Address) -> None:
        self.address = address
        self._pool = PooledDB(
            pymysql,
            mincached=0,
            maxconnections=24,
            blocking=True,
            ping=1,
            host=address.host,
            port=address.port,
            user=address.user,
            password=address.password,
            database=address.database,
            ssl_disabled=True,  # loopback; a context of certificates costs 90 ms a connection
            charset="utf8mb4",
            cursorclass=DictCursor,
            autocommit=False,
            connect_timeout=5,
            read_timeout=60,
            init_command="SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED",
        )

    @contextmanager
    def work(self) -> Iterator[DictCursor]:
        """A cursor in a transaction: committed at the end, rolled back on any error.

        Raises:
            StoreError: the database is away.
        """
        try:
            connection = self._pool.connection()
        except (pymysql.err.OperationalError, pymysql.err.InterfaceError) as reason:
            raise away(reason) from reason
        try:
            # Said to the pool as well: else it does a statement that failed once more by itself, on its own, where the
            # database had taken back all that was done before it.
            connection.begin()
            cursor = connection.cursor()
            yield cursor
            connection.commit()
        except (pymysql.err.OperationalError, pymysql.err.InterfaceError) as reason:
            if not reason.args or reason.args[0] in LOST or isinstance(reason, pymysql.err.InterfaceError):
                raise away(reason) from reason
            connection.rollback()
            raise
        except BaseException:
            connection.rollback()
            raise
        finally:
            connection.close()

    def close(self) -> None:
        """Close all idle connections."""
        self._pool.close()


@contextmanager
def alone(store: Store, name: str, seconds: int = 20) -> Iterator[None]:
    """What is done under a name by one at a time, whatever transactions it is made of.

    Raises:
        StoreError: `busy`: another is at it for longer than one waits.
    """
    with store.work() as sql:
        sql.execute("SELECT GET_LOCK(%s, %s) AS mine", (f"tenugui {name}"[:64], seconds))
        row = sql.fetchone()
        if not row or row["mine"] != 1:
            raise StoreError("busy", "Somebody else is doing the same.", "Wait a moment, and look again.", 503)
        try:
            yield
        finally:
            sql.execute("SELECT RELEASE_LOCK(%s)", (f"tenugui {name}"[:64],))


def _begin_anew(address: Address) -> None:
    """Take away what a first start that was killed has left half made: tables without a single row, where not all
    migrations have been applied.
    """
    steps = {m.id for m in read_migrations(str(Path(__file__).parent / "migrations"))}
    store = Store(address)
    try:
        with store.work() as sql:
            sql.execute("SHOW TABLES")
            tables = [str(next(iter(row.values()))) for row in sql.fetchall()]
            own = [name for name in tables if not name.lstrip("_").startswith("yoyo")]
            if "_yoyo_migration" in tables:
                sql.execute("SELECT migration_id FROM _yoyo_migration")
                if steps <= {str(row["migration_id"]) for row in sql.fetchall()}:
                    return
            for name in own:
                sql.execute(f"SELECT 1 FROM `{name}` LIMIT 1")
                if sql.fetchone():
                    return  # somebody's work: it is brought up to date, not begun anew
            sql.execute("SET FOREIGN_KEY_CHECKS = 0")
            for name in tables:
                sql.execute(f"DROP TABLE `{name}`")
            sql.execute("SET FOREIGN_KEY_CHECKS = 1")
    finally:
        store.close()


def migrate(address: Address) -> None:
    """Apply the numbered .sql migrations that have not been applied. The folder's lock keeps others away: a mark of one
    that was killed in the middle is void.
    """
    _begin_anew(address)
    backend = get_backend(
        f"mysql://{address.user}:{quote(address.password, safe='')}@{address.host}:{address.port}/{address.database}"
        "?ssl_disabled=yes"
    )
    try:
        backend.ensure_internal_schema_updated()
        backend.break_lock()
        with backend.lock():
            backend.apply_migrations(backend.to_apply(read_migrations(str(Path(__file__).parent / "migrations"))))
    finally:
        backend.connection.close()


def address_from_environment() -> Address:
    """The address that the launcher hands to its workers."""
    return Address(int(os.environ["TENUGUI_DB_PORT"]), os.environ["TENUGUI_DB_PASSWORD"])


def address_to_environment(address: Address) -> dict[str, str]:
    """What `address_from_environment` reads."""
    return {"TENUGUI_DB_PORT": str(address.port), "TENUGUI_DB_PASSWORD": address.password}
