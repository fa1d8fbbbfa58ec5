"""Start everything, in order, and stop everything, in reverse: the database and the one that forks, while all else is
loaded, then the application.
"""

from __future__ import annotations

import importlib
import os
import signal
import threading
from pathlib import Path

from .store.db import StoreError
from .store.server import DatabaseServer, InUse, tell
from .work import forked


def serve(demo: bool, port: int, *, open_at: str | None = None, invited: str | None = None) -> int:
    """Database, migrations, demo jobs when asked, workers, and the address; until Ctrl-C or SIGTERM. `open_at`: the
    address at which the house is let in; `invited`: whom a new password is for, empty for one more keeper.
    """
    if open_at is None and invited is not None:
        tell("tenugui: --invite-keeper goes with --open ADDRESS")
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
