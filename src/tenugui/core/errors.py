"""The one shape of every refusal in the core: what is wrong, where, and what to do about it."""

from __future__ import annotations


class CoreError(Exception):
    """A refusal a person can act on.

    `code` is stable and machine readable; `what`, `where` and `remedy` are sentences. Each room raises its own
    subclass.
    """

    def __init__(self, code: str, what: str, where: str = "", remedy: str = "") -> None:
        self.code, self.what, self.where, self.remedy = code, what, where, remedy
        super().__init__(" ".join(part for part in (what, f"({where})" if where else "", remedy) if part))
