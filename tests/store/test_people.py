"""Sessions, invitations and roles by the clock."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path

import pytest
from cryptography import x509

from tenugui.store import people
from tenugui.store.certificate import certificate
from tenugui.store.db import Store, StoreError
from tenugui.store.people import HASHER

NOW = datetime(2026, 12, 2, 9, 0)
WORDS = "reeds under a slow lantern"
HOUR, DAY = timedelta(hours=1), timedelta(days=1)


def keeper(store: Store, name: str = "Ume", role: str = "keeper") -> int:
    return people.take(store, people.invite(store, role, NOW), name, WORDS, NOW)


def code(deed: Callable[[], object]) -> str:
    with pytest.raises(StoreError) as refused:
        deed()
    return refused.value.code


def test_an_invitation_works_once_and_for_three_days(store: Store) -> None:
    token = people.invite(store, "member", NOW)
    assert people.invited(store, token, NOW + 2 * DAY)["role"] == "member"
    assert code(lambda: people.take(store, token, "Sora", WORDS, NOW + 3 * DAY + HOUR)) == "no-invitation"
    number = people.take(store, token, "Sora", WORDS, NOW + 2 * DAY)
    assert people.one(store, number)["role"] == "member"
    assert code(lambda: people.take(store, token, "Kiri", WORDS, NOW)) == "no-invitation"
    assert code(lambda: people.invited(store, token[:-1] + "x", NOW)) == "no-invitation"


def test_of_many_who_take_one_invitation_one_is_let_in(store: Store) -> None:
    token = people.invite(store, "member", NOW)

    def take(k: int) -> bool:
        try:
            people.take(store, token, f"Heron {k}", WORDS, NOW)
        except StoreError as refused:
            assert refused.code == "no-invitation"
            return False
        return True

    with ThreadPoolExecutor(8) as pool:
        assert sum(pool.map(take, range(8))) == 1
    assert len(people.every(store)) == 1


@pytest.mark.parametrize("password", ["short", "x" * 129, "the ume of the marsh"])
def test_a_weak_password_is_refused_and_leaves_the_invitation(store: Store, password: str) -> None:
    token = people.invite(store, "keeper", NOW)
    assert code(lambda: people.take(store, token, "Ume", password, NOW)) == "weak-password"
    assert people.take(store, token, "Ume", WORDS, NOW)


def test_a_name_is_taken_once_and_the_invitation_is_left(store: Store) -> None:
    keeper(store)
    token = people.invite(store, "member", NOW)
    assert code(lambda: people.take(store, token, "ume", WORDS, NOW)) == "name-taken"
    assert people.take(store, token, "Sora", WORDS, NOW)


def test_passwords_and_tokens_are_not_kept(store: Store) -> None:
    keeper(store)
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    with store.work() as sql:
        sql.execute("SELECT password FROM people")
        assert str((sql.fetchone() or {})["password"]).startswith("$argon2id$")
        sql.execute("SELECT token FROM sessions")
        assert bytes((sql.fetchone() or {})["token"]) != token.encode()


def test_a_session_ends_when_it_idles_and_after_a_fortnight(store: Store) -> None:
    keeper(store)
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    assert people.seen(store, token, NOW + 13 * HOUR) is None
    token, now = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1], NOW
    while (known := people.seen(store, token, now)) is not None:
        token, now = known[1] or token, now + 10 * HOUR
    assert timedelta(days=14) < now - NOW < timedelta(days=15)


def test_a_token_is_replaced_each_hour_and_the_old_one_serves_a_minute(store: Store) -> None:
    keeper(store)
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    known = people.seen(store, token, NOW + HOUR / 2)
    assert known is not None and known[0]["name"] == "Ume" and known[1] is None
    later = NOW + HOUR + timedelta(minutes=1)
    known = people.seen(store, token, later)
    assert known is not None and known[1] not in (None, token)
    again = people.seen(store, token, later + timedelta(seconds=30))
    assert again is not None and again[1] is None
    assert people.seen(store, token, later + timedelta(minutes=2)) is None
    assert people.seen(store, str(known[1]), later + timedelta(minutes=2)) is not None


def test_failed_sign_ins_slow_a_name_and_an_address(store: Store) -> None:
    keeper(store)
    for k in range(people.MOST_BY_NAME):
        assert code(partial(people.sign_in, store, "Ume", "wrong", f"10.0.0.{k}", NOW)) == "not-signed-in"
    assert code(lambda: people.sign_in(store, "Ume", WORDS, "10.0.0.99", NOW)) == "slow-down"
    assert people.sign_in(store, "Ume", WORDS, "10.0.0.99", NOW + people.SLOWED_FOR + HOUR)
    for k in range(people.MOST_BY_ADDRESS):
        assert code(partial(people.sign_in, store, f"nobody {k}", WORDS, "10.0.0.7", NOW)) == "not-signed-in"
    assert code(lambda: people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)) == "slow-down"
    assert people.sign_in(store, "Ume", WORDS, "10.0.0.8", NOW)


def test_a_name_that_nobody_has_is_checked_as_any_other(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    keeper(store)
    checked = list[str]()

    class Watched:
        def verify(self, kept: str, password: str) -> bool:
            checked.append(kept)
            return HASHER.verify(kept, password)

        hash, check_needs_rehash = HASHER.hash, HASHER.check_needs_rehash

    monkeypatch.setattr(people, "HASHER", Watched())
    for name in ("nobody", "Ume"):
        assert code(partial(people.sign_in, store, name, "not this one", "10.0.0.2", NOW)) == "not-signed-in"
    assert [kept.split("$")[1:4] for kept in checked] == [checked[0].split("$")[1:4]] * 2, "the same work for both"


def test_another_spelling_of_a_name_does_not_try_anew(store: Store) -> None:
    keeper(store)
    for name in ("Ume", "ume", "\u00dcme", "UME", "um\u00e9"):
        assert code(partial(people.sign_in, store, name, "wrong", "10.0.0.1", NOW)) == "not-signed-in"
    assert code(lambda: people.sign_in(store, "Ume", WORDS, "10.0.0.9", NOW)) == "slow-down"


def test_who_signed_out_was_here(store: Store) -> None:
    keeper(store)
    assert people.every(store)[0]["seen_at"] is None
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    people.seen(store, token, NOW + HOUR / 2)
    people.sign_out(store, token)
    assert people.every(store)[0]["seen_at"] == NOW + HOUR / 2


def test_a_new_password_ends_every_session(store: Store) -> None:
    number = keeper(store)
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    invitation = people.invite(store, "guest", NOW, person=number)
    assert people.invited(store, invitation, NOW) == {"role": "keeper", "person_id": number, "name": "Ume"}
    assert people.take(store, invitation, "somebody else", "a heron waits for eels", NOW) == number
    assert people.seen(store, token, NOW) is None
    assert code(lambda: people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)) == "not-signed-in"
    assert people.sign_in(store, "Ume", "a heron waits for eels", "10.0.0.7", NOW)[0] == number


def test_the_last_keeper_neither_leaves_nor_steps_down(store: Store) -> None:
    one = keeper(store)
    assert code(lambda: people.leaves(store, one, NOW)) == "last-keeper"
    assert code(lambda: people.give_role(store, one, "member")) == "last-keeper"
    two = keeper(store, "Sora")
    token = people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)[1]
    people.leaves(store, one, NOW)
    assert people.seen(store, token, NOW) is None
    assert code(lambda: people.sign_in(store, "Ume", WORDS, "10.0.0.7", NOW)) == "not-signed-in"
    assert code(lambda: people.leaves(store, two, NOW)) == "last-keeper"


def test_two_keepers_who_leave_at_once_leave_one(store: Store) -> None:
    numbers = [keeper(store, name) for name in ("Ume", "Sora")]

    def leave(number: int) -> bool:
        try:
            people.leaves(store, number, NOW)
        except StoreError as refused:
            assert refused.code == "last-keeper"
            return False
        return True

    with ThreadPoolExecutor(2) as pool:
        assert sum(pool.map(leave, numbers)) == 1
    assert people.has_keeper(store)


def test_a_certificate_is_kept_until_its_last_month_and_names_its_address(tmp_path: Path) -> None:
    now = datetime(2026, 12, 2, tzinfo=UTC)
    first = certificate(tmp_path / "tls", "192.0.2.20", now)
    assert (first.key.stat().st_mode & 0o777, first.path.parent.stat().st_mode & 0o777) == (0o600, 0o700)
    assert certificate(tmp_path / "tls", "192.0.2.20", now + 300 * DAY).fingerprint == first.fingerprint
    later = certificate(tmp_path / "tls", "192.0.2.20", now + 370 * DAY)
    assert later.fingerprint != first.fingerprint
    named = certificate(tmp_path / "tls", "bench.marsh.example", now + 371 * DAY)
    held = x509.load_pem_x509_certificate(named.path.read_bytes())
    told = held.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert told.get_values_for_type(x509.DNSName) == ["bench.marsh.example"]
    named.path.write_bytes(b"spoilt")
    assert certificate(tmp_path / "tls", "bench.marsh.example", now + 371 * DAY).fingerprint != named.fingerprint
