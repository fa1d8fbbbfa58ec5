"""Start everything, in order, and stop everything, in reverse: the database and the one that forks, while all else is
loaded, then the application.
"""

from __future__ import annotations

import importlib
import ipaddress
import os
import re
import signal
import threading
from pathlib import Path

from .store.db import StoreError
from .store.server import DatabaseServer, InUse, tell
from .work import forked

NAME = re.compile(r"(?!-)[A-Za-z0-9-]{1,63}(\.[A-Za-z0-9-]{1,63})*")


def _wrong(open_at: str | None, invited: str | None) -> str | None:
    """Why a bench cannot be opened so, or None."""
    if open_at is None:
        return None if invited is None else "--invite-keeper goes with --open ADDRESS."
    try:
        every = ipaddress.ip_address(open_at).is_unspecified
    except ValueError:
        every = False
        if not NAME.fullmatch(open_at):
            return f"'{open_at}' is neither an address nor a name of this computer; give it without port or https."
    return f"{open_at} is no address that a browser can be given; name one of this computer's." if every else None


def serve(demo: bool, port: int, *, open_at: str | None = None, invited: str | None = None) -> int:
    """Database, migrations, demo jobs when asked, workers, and the address; until Ctrl-C or SIGTERM. `open_at`: the
    address at which the house is let in; `invited`: whom a new password is for, empty for one more keeper.
    """
    wrong = _wrong(open_at, invited)
    if wrong is not None:
        tell(f"tenugui: {wrong}")
        return 2
    state = Path(os.environ.get("TENUGUI_STATE", ".state"))
    signal.signal(signal.SIGTERM, lambda *_: signal.raise_signal(signal.SIGINT))
    forked.begin()
    loading = threading.Thread(target=importlib.import_module, args=("tenugui.serving",))
    loading.start()
    database = DatabaseServer(state / "db")
    try:
        address = database.start()
        loading.join()
        from .serving import OnLoopback, Opened, until_stopped

        place = OnLoopback(port) if open_at is None else Opened(port, open_at, state / "tls", invited)
        until_stopped(database, address, state, demo=demo, place=place)
    except KeyboardInterrupt:
        pass
    except StoreError as problem:
        tell(f"tenugui: {problem}")
        return 1
    except InUse as held:
        tell(f"tenugui: {held}")
        return 1
    finally:
        loading.join()
        database.stop()
    return 0
