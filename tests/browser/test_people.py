"""A bench that is open to the house: encrypted, entered by invitation, each as far as their role goes."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import PATIENCE, free_port

WORDS = "reeds under a slow lantern"


@dataclass
class Open:
    """An open bench, and the invitation that its terminal told."""

    address: str
    invitation: str
    state: Path


def opened(state: Path, *words: str) -> tuple[subprocess.Popen[str], Open]:
    """Start, and wait for its address."""
    process = subprocess.Popen(
        [sys.executable, "-m", "tenugui.cli", "serve", "--port", str(free_port()), "--open", "127.0.0.1", *words],
        env={**os.environ, "TENUGUI_STATE": str(state)},
        stdout=subprocess.PIPE,
        text=True,
    )
    invitation = ""
    assert process.stdout is not None
    for line in process.stdout:
        if "/invited#" in line:
            invitation = line.split(": ", 1)[1].strip()
        if line.startswith("Tenugui is at "):
            return process, Open(line.split()[3].rstrip("/"), invitation, state)
    raise AssertionError("it ended at its start")


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Open]:
    process, held = opened(tmp_path_factory.mktemp("open"))
    yield held
    process.send_signal(signal.SIGTERM)
    process.wait(30)


def window(browser: Browser, house: Open) -> Page:
    """Somebody's browser, whose owner has compared the fingerprint."""
    page = browser.new_context(base_url=house.address, ignore_https_errors=True, reduced_motion="reduce").new_page()
    page.set_default_timeout(PATIENCE)
    return page


def come_in(page: Page, link: str, name: str) -> None:
    page.goto(link)
    page.get_by_label("The name that others see").fill(name)
    page.get_by_label(re.compile("^A password")).fill(WORDS)
    page.get_by_role("button", name="Come in").click()
    expect(page.get_by_role("heading", name="On the bench")).to_be_visible()


def test_invited_let_in_shown_out_and_noted(browser: Browser, house: Open) -> None:
    keeper, guest = window(browser, house), window(browser, house)
    keeper.goto("/log")
    expect(keeper.get_by_role("heading", name="Who is at the bench?")).to_be_visible()
    expect(keeper.get_by_role("link", name="Log")).to_have_count(0)
    come_in(keeper, house.invitation, "Ume")

    keeper.get_by_role("button", name="Ume ▾").click()
    keeper.get_by_role("menuitem", name="People, and what was done").click()
    keeper.get_by_label("Role of who is invited").click()
    keeper.get_by_role("option", name="guest at a machine").click()
    keeper.get_by_role("button", name="Invite", exact=True).click()
    link = keeper.get_by_role("status").locator("code").inner_text()
    come_in(guest, link, "Sora")
    guest.goto(link)
    expect(guest.get_by_role("alert")).to_contain_text("used already")
    guest.goto("/people")
    expect(guest.get_by_role("alert")).to_contain_text("A guest may not do this.")

    keeper.reload()
    rows = keeper.get_by_role("region", name="What was done")
    expect(rows.get_by_role("row", name="Sora took an invitation up")).to_be_visible()
    keeper.get_by_role("button", name="Show out Sora").click()
    expect(keeper.get_by_text("Have left: Sora.")).to_be_visible()
    guest.goto("/")
    expect(guest.get_by_role("heading", name="Who is at the bench?")).to_be_visible()
    keeper.get_by_role("button", name="Ume ▾").click()
    keeper.get_by_role("menuitem", name="Sign out", exact=True).click()
    expect(keeper.get_by_role("heading", name="Who is at the bench?")).to_be_visible()
    keeper.get_by_label("Name").fill("Ume")
    keeper.get_by_label("Password").fill(WORDS)
    keeper.get_by_role("button", name="Sign in").click()
    expect(keeper.get_by_role("heading", name="Who has a key")).to_be_visible()  # where one was


def test_what_travels_is_encrypted_by_the_benchs_own_certificate(house: Open) -> None:
    own = str(house.state / "tls" / "certificate.pem")
    assert httpx.get(f"{house.address}/api/health", verify=own).json() == {"database": "here"}
    with pytest.raises(httpx.ConnectError, match="CERTIFICATE_VERIFY_FAILED"):
        httpx.get(f"{house.address}/api/health")
    with pytest.raises(httpx.HTTPError):
        httpx.get(f"{house.address}/api/health".replace("https", "http"))
    answer = httpx.get(f"{house.address}/api/health", headers={"Host": "marsh.example"}, verify=own)
    assert answer.status_code == 403


@pytest.mark.parametrize(
    ("words", "why"),
    [
        (["--open", "0.0.0.0"], "no address that a browser can be given"),
        (["--open", "https://bench.example:8765"], "neither an address nor a name"),
        (["--invite-keeper"], "goes with --open"),
    ],
)
def test_what_cannot_be_opened_is_said_before_anything_starts(tmp_path: Path, words: list[str], why: str) -> None:
    told = subprocess.run(
        [sys.executable, "-m", "tenugui.cli", "serve", *words],
        env={**os.environ, "TENUGUI_STATE": str(tmp_path / "state")},
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert told.returncode == 2 and why in told.stderr and not (tmp_path / "state").exists()
