"""Start everything, in order, and stop everything, in reverse: the database and the one that forks, while all else is
loaded, then the application.
"""

from __future__ import annotations

import importlib
import os
import signal
import threading
from pathlib import Path

from .store.server import DatabaseServer, InUse, tell
from .work import forked


def serve(demo: bool, port: int) -> int:
    """Database, migrations, demo jobs when asked, workers, and the address; until Ctrl-C or SIGTERM."""
    state = Path(os.environ.get("TENUGUI_STATE", ".state"))
    signal.signal(signal.SIGTERM, lambda *_: signal.raise_signal(signal.SIGINT))
    forked.begin()
    loading = threading.Thread(target=importlib.import_module, args=("tenugui.serving",))
    loading.start()
    database = DatabaseServer(state / "db")
    try:
        address = database.start()
        loading.join()
        from .serving import until_stopped

        until_stopped(database, address, state, demo=demo, port=port)
    except KeyboardInterrupt:
        pass
    except InUse as held:
        tell(f"tenugui: {held}")
        return 1
    finally:
        loading.join()
        database.stop()
    return 0
