"""Backup, wipe, restore: the same pages and figures; the doors of the launcher."""

from __future__ import annotations

from argparse import Namespace

import psycopg
import pytest
from fastapi.testclient import TestClient

from isotherma.catalogue.demo import drover, folio
from isotherma.ops.backup import backup, restore
from isotherma.ops.cluster import ClusterError
from isotherma.ops.doors import host_of, refused, tell_environment
from isotherma.services.accounts import Accounts
from isotherma.settings import Settings, is_loopback
from isotherma.web.app import bare_app, furnish

PAGES = ("brief", "shower", "budgets", "build", "log", "versions")


def served(url):
    app = bare_app(("testserver",))
    furnish(app, url)
    return app


def seen(app, path):
    with TestClient(app) as client:
        return {page: client.get(f"{path}/{page}").text for page in PAGES}


def filled(app):
    services = app.state.services
    number = services.vehicles.create(drover(), "Started")
    services.vehicles.create(folio(), "Started")
    path = f"/vehicles/{number}/ten-litres"
    with TestClient(app) as client:
        client.post(
            f"{path}/build/tick", data={"task": "mount.pump", "state": "done", "by": "Ines"}
        )
        client.post(f"/vehicles/{number}/rename", data={"name": "Drover, kept"})
    return path


def test_backup_wipe_restore_gives_the_same_pages(database_url, tmp_path):
    app = served(database_url)
    path = filled(app)
    before = seen(app, path)
    token = Accounts(app.state.services.accounts._sessions).invite("account")
    app.state.keeping.settle()
    app.state.engine.dispose()
    out = tmp_path / "kept.backup"
    assert backup(database_url, out) == out.stat().st_size > 10_000
    with psycopg.connect(database_url) as connection:
        connection.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
    restore(database_url, out)
    again = served(database_url)
    after = seen(again, path)
    assert "Drover, kept" in after["brief"] and "Ines" in after["build"]
    for page in PAGES:
        assert after[page] == before[page], page
    assert again.state.services.accounts.invited(token) == "account"
    again.state.keeping.settle()
    again.state.engine.dispose()


def test_a_backup_never_writes_over_another_and_no_other_file_is_restored(database_url, tmp_path):
    out = tmp_path / "kept.backup"
    out.write_text("mine")
    with pytest.raises(ClusterError, match="there already"):
        backup(database_url, out)
    assert out.read_text() == "mine"
    with pytest.raises(ClusterError, match="no backup of"):
        restore(database_url, out)
    with pytest.raises(ClusterError, match="No such file"):
        restore(database_url, tmp_path / "gone.backup")
    app = served(database_url)
    path = filled(app)
    app.state.keeping.settle()
    app.state.engine.dispose()
    broken = tmp_path / "broken.backup"
    broken.write_bytes(b"PGDMP and then nothing of the kind")
    with pytest.raises(ClusterError, match="could not be read in"):
        restore(database_url, broken)
    again = served(database_url)
    assert "Drover, kept" in seen(again, path)["brief"]
    again.state.keeping.settle()
    again.state.engine.dispose()


def test_a_full_disk_or_a_folder_that_is_not_there_is_said(database_url, tmp_path):
    with pytest.raises(ClusterError):
        backup(database_url, tmp_path / "no" / "such" / "folder")


def typed(**more):
    return Namespace(**{"lan": False, "accounts": False, "host": "", "address": "", "port": 8000,
                        "plain_http": False, **more})  # fmt: skip


@pytest.mark.parametrize(
    ("options", "words"),
    [
        ({}, ""), ({"lan": True}, ""), ({"accounts": True}, ""),
        ({"accounts": True, "host": "0.0.0.0"}, ""), ({"host": "127.0.0.1"}, ""),
        ({"host": "0.0.0.0"}, "--lan"), ({"host": "192.0.2.4"}, "--accounts"),
        ({"lan": True, "accounts": True}, "Choose one"),
    ],
)  # fmt: skip
def test_listening_for_others_needs_a_door(options, words):
    said = refused(typed(**options))
    assert (said == "") == (words == "") and words in said


def test_where_it_listens_and_what_processes_are_told(monkeypatch):
    assert host_of(typed()) == "127.0.0.1" and host_of(typed(lan=True)) == "0.0.0.0"
    assert is_loopback("127.0.0.5") and is_loopback("localhost") and not is_loopback("192.0.2.1")
    for name in ("ISOTHERMA_MODE", "ISOTHERMA_ADDRESS", "ISOTHERMA_HOSTS", "ISOTHERMA_PLAIN_HTTP"):
        monkeypatch.delenv(name, raising=False)
        monkeypatch.setenv(name, "")
    address = tell_environment(
        typed(accounts=True, address="https://water.example/"), Settings(None, ("127.0.0.1",)), 8000
    )
    assert address == "https://water.example"
    read = Settings.from_environment()
    assert read.mode == "accounts" and read.address == address and "water.example" in read.hosts
    assert not read.plain_http
    lan = tell_environment(typed(lan=True), Settings(None, ("127.0.0.1",)), 8123)
    assert lan.startswith("http://") and lan.endswith(":8123")
    assert Settings.from_environment().mode == "lan"
    monkeypatch.setenv("ISOTHERMA_MODE", "everybody")
    assert Settings.from_environment().mode == "accounts"  # the narrowest
