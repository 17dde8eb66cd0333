"""Doors: every route by every kind of visitor; signing in; phones; links; nothing of others."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient

from isotherma.catalogue.demo import drover
from isotherma.services import accounts as accounts_module
from isotherma.services.accounts import Accounts, digest
from isotherma.services.visitors import ALONE, visiting
from isotherma.web.doors import COOKIE, DOORS
from isotherma.web.rooms import ROUTERS
from tests.web.test_pages import soup, text

PASSWORD = "a long enough sentence"
EVERY: list[Any] = [route for router in ROUTERS for route in router.routes]
ROUTES = sorted(
    {(sorted(route.methods)[0], str(route.name), str(route.path)) for route in EVERY},
    key=lambda row: row[1],
)


@dataclass
class Workshop:
    """A workshop with accounts: an owner's vehicle, somebody it is shared with, a stranger."""

    app: Any
    vehicle: int
    variant: str
    people: dict[str, TestClient] = field(default_factory=dict)

    @property
    def path(self) -> str:
        return f"/vehicles/{self.vehicle}/{self.variant}"


def client_of(app: Any, token: str = "") -> TestClient:
    made = TestClient(app, follow_redirects=False)
    if token:
        made.cookies.set(COOKIE, token)
    return made


def account(app: Any, name: str) -> str:
    accounts: Accounts = app.state.services.accounts
    return accounts.accept(accounts.invite("account"), name, PASSWORD)


@pytest.fixture
def workshop(client):
    app = client.app
    app.state.mode = "accounts"
    services = app.state.services
    admin = services.accounts.accept(services.accounts.invite("admin"), "Boss", PASSWORD)
    people = {"nobody": client_of(app), "admin": client_of(app, admin)}
    for name in ("owner", "editor", "looker", "stranger"):
        people[name] = client_of(app, account(app, name))
    visiting(services.accounts.visitor(people["owner"].cookies[COOKIE]))
    project = drover()
    number = services.vehicles.create(project, "Started")
    services.sharing.share(number, "editor", "edit")
    services.sharing.share(number, "looker", "look")
    visiting(ALONE)
    yield Workshop(app, number, project.variants[0].id, people)
    visiting(ALONE)
    app.state.mode = "alone"


def test_every_route_has_a_door_and_every_door_a_route():
    assert {name for _, name, _ in ROUTES} == set(DOORS)


VISITORS = ("nobody", "stranger", "looker", "editor", "owner", "admin")
OPENS: dict[str, set[str]] = {
    "open": set(VISITORS), "person": set(VISITORS) - {"nobody"}, "admin": {"admin"},
    "look": {"looker", "editor", "owner"}, "edit": {"editor", "owner"}, "own": {"owner"},
}  # fmt: skip
TOKEN = "x" * 22


def address(path: str, workshop: Workshop, vehicle: int | None = None) -> str:
    filled = path.replace("{vehicle_id}", str(vehicle or workshop.vehicle))
    filled = filled.replace("{variant_id}", workshop.variant).replace("{token}", TOKEN)
    return re.sub(r"\{\w+\}", "1", filled)


# streams do not end by themselves, and signing out would end what the table is asked with
HEAVY = {"design.events", "design.log.probe.live", "sign_out"}


def asked(client: TestClient, method: str, path: str) -> int:
    """The status of a request that carries nothing."""
    return int(client.request(method, path).status_code)


@pytest.mark.parametrize("visitor", VISITORS)
def test_the_table_of_routes_and_visitors(workshop, visitor):
    """What is not theirs is not there (404), or asks nobody to sign in; else the room answers."""
    seen: list[str] = []
    client = workshop.people[visitor]
    for method, name, path in ROUTES:
        if name in HEAVY and visitor in OPENS[DOORS[name]]:
            continue
        if DOORS[name] in ("look", "edit", "own", "admin") and visitor in OPENS[DOORS[name]]:
            continue  # that they do open is shown below, by address
        status = asked(client, method, address(path, workshop))
        if visitor in OPENS[DOORS[name]]:
            assert status not in (401, 500), (visitor, name, status)
            continue
        wanted = {303, 401} if visitor == "nobody" else {404}
        assert status in wanted, (visitor, name, status)
        seen.append(name)
    assert len(seen) >= {"owner": 3, "admin": 150, "nobody": 150, "stranger": 150}.get(visitor, 3)


LIGHT = ("design.brief", "versions.show", "vehicle.export", "design.share", "design.use")


@pytest.mark.parametrize(
    ("visitor", "may"),
    [("looker", "look"), ("editor", "edit"), ("owner", "own")],
)  # fmt: skip
def test_what_is_shared_opens_as_far_as_it_is_shared(workshop, visitor, may):
    client = workshop.people[visitor]
    for name in LIGHT:
        path = next(path for _, each, path in ROUTES if each == name)
        answer = client.get(address(path, workshop))
        assert answer.status_code == 200, name
        if name == "design.brief":
            assert soup(answer).body["data-may"] == may
    changed = client.post(f"{workshop.path}/draw/add", data={})
    assert (changed.status_code == 404) == (may == "look")
    deleted = client.post(f"/vehicles/{workshop.vehicle}/delete")
    assert (deleted.status_code != 404) == (may == "own")


def test_nothing_of_others_is_read_or_written_by_any_id(workshop):
    """Every route, from 1 to past the last id: 0 of all reads and writes succeed."""
    services = workshop.app.state.services
    before = services.vehicles.open(workshop.vehicle).head_id
    client, tried = workshop.people["stranger"], 0
    for method, name, path in ROUTES:
        if "{vehicle_id}" not in path:
            continue
        for number in (workshop.vehicle, workshop.vehicle + 1, 0, -1, 2**31, "1e1", "%31"):
            filled = path.replace("{vehicle_id}", str(number)).replace(
                "{variant_id}", workshop.variant)  # fmt: skip
            answer = client.request(method, re.sub(r"\{\w+\}", "1", filled))
            assert answer.status_code == 404, (name, number, answer.status_code)
            tried += 1
    assert tried > 1000
    assert services.vehicles.open(workshop.vehicle).head_id == before
    assert "Drover" not in client.get("/").text
    assert "Drover" not in client.get("/jump").text and "Drover" not in client.get("/sums").text


def test_lists_have_what_is_ones_own_and_shared(workshop):
    for name, there in (("owner", True), ("looker", True), ("editor", True), ("stranger", False),
                        ("admin", False)):  # fmt: skip
        page = workshop.people[name].get("/")
        assert page.status_code == 200 and ("Drover" in page.text) == there, name
    assert workshop.people["nobody"].get("/").headers["location"] == "/sign-in"
    deep = workshop.people["nobody"].get(f"{workshop.path}/brief")
    assert deep.headers["location"] == f"/sign-in?back={workshop.path}/brief"
    part = workshop.people["nobody"].get(f"{workshop.path}/brief", headers={"hx-request": "true"})
    assert part.headers["hx-redirect"].startswith("/sign-in")


def sign_in(client, name, password=PASSWORD, **more):
    return client.post("/sign-in", data={"name": name, "password": password, **more})


def test_signing_in_gives_a_cookie_that_scripts_do_not_read(workshop):
    client = client_of(workshop.app)
    answer = sign_in(client, " owner ", back="/sums")
    assert answer.status_code == 303 and answer.headers["location"] == "/sums"
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie and "samesite=lax" in cookie and "secure" not in cookie
    assert client.get("/").status_code == 200
    away = sign_in(client_of(workshop.app), "owner", back="//192.0.2.9/")
    assert away.headers["location"] == "/"


def test_by_tls_the_cookie_is_secure_and_beyond_this_machine_plain_is_refused(workshop):
    secure = TestClient(workshop.app, base_url="https://testserver", follow_redirects=False)
    assert "secure" in sign_in(secure, "owner").headers["set-cookie"].lower()
    far = TestClient(workshop.app, client=("192.0.2.5", 5000), follow_redirects=False)
    page = far.get("/sign-in")
    assert "without TLS" in page.text and soup(page).select_one("input[type=password]") is None
    assert sign_in(far, "owner").status_code == 403
    workshop.app.state.plain_http = True
    try:
        assert sign_in(far, "owner").status_code == 303
    finally:
        workshop.app.state.plain_http = False


def test_a_sign_in_is_a_new_one_each_time_and_ends_the_one_before(workshop):
    """A token put into a browser beforehand is worth nothing after signing in."""
    services = workshop.app.state.services
    client = client_of(workshop.app)
    client.cookies.set(COOKIE, "planted-by-somebody-else-1234567")
    first = sign_in(client, "owner")
    shown = re.search(rf"{COOKIE}=([\w-]+)", first.headers["set-cookie"])
    assert shown is not None and shown[1] != "planted-by-somebody-else-1234567"
    assert services.accounts.visitor("planted-by-somebody-else-1234567").kind == "nobody"
    second = sign_in(client, "owner")
    assert second.status_code == 303
    assert services.accounts.visitor(shown[1]).kind == "nobody"


def test_wrong_tries_are_counted_for_all_processes(workshop, database_url):
    """Two services on one database, as two server processes have."""
    from isotherma.store.engine import open_engine, open_sessions

    engine = open_engine(database_url)
    other = Accounts(open_sessions(engine))
    client = client_of(workshop.app)
    for place in range(accounts_module.MOST_OF_NAME):
        if place % 2:
            with pytest.raises(accounts_module.Refused) as refused:
                other.sign_in("owner", "wrong", "192.0.2.1")
            assert refused.value.status == 403
        else:
            assert sign_in(client, "owner", "wrong").status_code == 403
    late = sign_in(client, "owner")
    assert late.status_code == 429 and late.headers["retry-after"] == "900"
    with pytest.raises(accounts_module.Refused) as refused:
        other.sign_in("OWNER", PASSWORD, "192.0.2.77")
    assert refused.value.status == 429
    assert sign_in(client, "editor").status_code == 303  # another name is not held up
    engine.dispose()


def test_a_name_there_is_none_of_is_refused_in_the_same_words(workshop):
    client = client_of(workshop.app)
    there, none = sign_in(client, "owner", "wrong"), sign_in(client, "no such name", "wrong")
    said = [text(soup(one).select_one("[role=alert]")) for one in (there, none)]
    assert said[0] == said[1] and there.status_code == none.status_code == 403


def test_another_password_signs_all_else_out(workshop):
    one, two = client_of(workshop.app), client_of(workshop.app)
    for client in (one, two):
        sign_in(client, "owner")
    wrong = one.post("/me/password", data={"old": "wrong", "new": "another long sentence"})
    assert wrong.status_code == 403 and "not your password" in wrong.text
    short = one.post("/me/password", data={"old": PASSWORD, "new": "short"})
    assert short.status_code == 422 and "10 letters" in short.text
    done = one.post("/me/password", data={"old": PASSWORD, "new": "another long sentence"})
    assert done.status_code == 200
    assert one.get("/").status_code == 200 and two.get("/").status_code == 303
    assert sign_in(client_of(workshop.app), "owner").status_code == 403
    assert sign_in(client_of(workshop.app), "owner", "another long sentence").status_code == 303


def test_signing_out_ends_it_and_a_list_ends_others(workshop):
    one, two = client_of(workshop.app), client_of(workshop.app)
    sign_in(one, "owner")
    sign_in(two, "owner")
    page = soup(one.get("/me"))
    forms = page.select("form[action='/me/end'] input[name=number]")
    rows = [text(row) for row in page.select("tbody tr")]
    other = next(number["value"] for number, row in zip(forms, rows, strict=True)
                 if "this one" not in row)  # fmt: skip
    assert one.post("/me/end", data={"number": other}).status_code == 303
    assert one.post("/me/end", data={"number": 999}).status_code == 404
    two.post("/sign-out")
    assert two.get("/").status_code == 303


def test_a_password_is_never_kept_or_logged(workshop, database_url, capsys):
    secret = "nobody may ever read this one"
    token = workshop.app.state.services.accounts.invite("account")
    client = client_of(workshop.app)
    client.post(f"/invitation/{token}", data={"name": "Quiet", "password": secret})
    sign_in(client, "Quiet", secret)
    sign_in(client, "Quiet", f"{secret} wrong")
    with psycopg.connect(database_url) as connection:
        for table, column in (("account", "password"), ("sign_in", "token"),
                              ("invitation", "token"), ("attempt", "what")):  # fmt: skip
            rows = connection.execute(f"SELECT {column} FROM {table}").fetchall()
            assert not any(secret in str(row) or token in str(row) for row in rows)
        kept = connection.execute("SELECT password FROM account").fetchall()
    assert all(row[0].startswith("$argon2id$") for row in kept)
    written = capsys.readouterr()
    assert secret not in written.out + written.err and token not in written.out + written.err


def test_an_invitation_works_once_and_grows_old(workshop, database_url):
    accounts = workshop.app.state.services.accounts
    token = accounts.invite("account")
    client = client_of(workshop.app)
    assert client.get(f"/invitation/{token}").status_code == 200
    taken = client.post(f"/invitation/{token}", data={"name": "OWNER", "password": PASSWORD})
    assert taken.status_code == 422 and "has that name already" in taken.text
    made = client.post(f"/invitation/{token}", data={"name": "Ruža", "password": PASSWORD})
    assert made.status_code == 303
    again = client_of(workshop.app).post(
        f"/invitation/{token}", data={"name": "Other", "password": PASSWORD}
    )
    assert again.status_code == 404
    old = accounts.invite("account")
    with psycopg.connect(database_url) as connection:
        connection.execute(
            "UPDATE invitation SET ends_at = now() - interval '1 second' WHERE token = %s",
            (digest(old),),
        )
    assert client_of(workshop.app).get(f"/invitation/{old}").status_code == 404


def test_what_was_there_before_accounts_is_the_first_administrators(client):
    app, services = client.app, client.app.state.services
    number = services.vehicles.create(drover(), "Started")
    token = services.accounts.use_accounts()
    assert token is not None
    app.state.mode = "accounts"
    try:
        boss = client_of(app)
        boss.post(f"/invitation/{token}", data={"name": "Boss", "password": PASSWORD})
        assert "Drover" in boss.get("/").text
        late = client_of(app, account(app, "late"))
        assert "Drover" not in late.get("/").text
        assert services.accounts.use_accounts() is None
        services.accounts.use_none()  # nobody else owns anything: going back is no leak
        late.post("/vehicles", data={"name": "Mine", "start": "empty"})
        with pytest.raises(accounts_module.Refused, match="late"):
            services.accounts.use_none()
    finally:
        app.state.mode = "alone"
        visiting(ALONE)
    assert services.vehicles.open(number).project.name == "Drover"


def test_deleting_an_account_asks_where_its_vehicles_go(workshop):
    admin, services = workshop.people["admin"], workshop.app.state.services
    ids = {one.name: one.id for one in services.accounts.listed()}
    unsaid = admin.post("/accounts/delete", data={"number": ids["owner"]})
    assert unsaid.status_code == 422 and "Say to whom" in unsaid.text
    nobody = admin.post("/accounts/delete", data={
        "number": ids["owner"], "vehicles": "hand", "hand_to": "no one"})  # fmt: skip
    assert nobody.status_code == 422 and "no other account" in nobody.text
    handed = admin.post("/accounts/delete", data={
        "number": ids["owner"], "vehicles": "hand", "hand_to": "looker"})  # fmt: skip
    assert handed.status_code == 200
    assert workshop.people["owner"].get("/").status_code == 303
    mine = workshop.people["looker"].post(f"/vehicles/{workshop.vehicle}/rename",
                                          data={"name": "Mine now"})  # fmt: skip
    assert mine.status_code == 303
    gone = admin.post("/accounts/delete", data={"number": ids["looker"], "vehicles": "delete"})
    assert gone.status_code == 200 and "Mine now" not in admin.get("/").text
    last = admin.post("/accounts/delete", data={"number": ids["Boss"], "vehicles": "delete"})
    assert last.status_code == 422 and "only administrator" in last.text
    assert workshop.people["editor"].get("/accounts").status_code == 404


def test_sharing_and_taking_back(workshop):
    owner, stranger = workshop.people["owner"], workshop.people["stranger"]
    assert stranger.get(f"{workshop.path}/brief").status_code == 404
    for name, words in (("nobody here", "no account of that name"), ("owner", "theirs already")):
        refused = owner.post(f"{workshop.path}/share/account", data={"name": name})
        assert refused.status_code == 422 and words in refused.text
        assert soup(refused).select_one("#share-name")["value"] == name
    owner.post(f"{workshop.path}/share/account", data={"name": "Stranger", "may": "look"})
    assert stranger.get(f"{workshop.path}/brief").status_code == 200
    page = soup(owner.get(f"{workshop.path}/share"))
    row = next(one for one in page.select("tbody tr") if "stranger" in text(one))
    owner.post(f"{workshop.path}/share/take-back",
               data={"number": row.select_one("input[name=number]")["value"]})  # fmt: skip
    assert stranger.get(f"{workshop.path}/brief").status_code == 404


def test_the_journal_names_who_and_only_they_take_it_back(workshop):
    owner, editor = workshop.people["owner"], workshop.people["editor"]
    editor.post(f"/vehicles/{workshop.vehicle}/rename", data={"name": "Drover, painted"})
    page = soup(owner.get(f"{workshop.path}/share"))
    newest = text(page.select(".journal li")[0])
    assert "editor" in newest and "Started" in text(page.select(".journal li")[-1])
    services = workshop.app.state.services
    head = services.vehicles.open(workshop.vehicle).head_id
    owner.post(f"{workshop.path}/undo", data={"_base": head, "_page": "brief"})
    assert services.vehicles.open(workshop.vehicle).head_id == head
    editor.post(f"{workshop.path}/undo", data={"_base": head, "_page": "brief"})
    assert services.vehicles.open(workshop.vehicle).head_id != head


def test_classes_of_ones_own_are_ones_own(workshop):
    owner, editor = workshop.people["owner"], workshop.people["editor"]
    kept = owner.post(
        f"{workshop.path}/own-classes/keep", data={"part": "pump", "_piece": "part-pump"}
    )
    assert kept.status_code < 400
    mine = owner.get(f"{workshop.path}/own-classes")
    theirs = editor.get(f"{workshop.path}/own-classes")
    assert '"kind": "pump"' in mine.text and '"kind": "pump"' not in theirs.text


@pytest.fixture
def home(client):
    """A server at home for one's own phones."""
    client.app.state.mode = "lan"
    yield client
    client.app.state.mode = "alone"
    visiting(ALONE)


def phone_of(app) -> TestClient:
    return TestClient(app, client=("192.0.2.20", 4000), follow_redirects=False)


def test_a_phone_is_paired_once_by_a_press(home):
    accounts = home.app.state.services.accounts
    assert home.get("/").status_code == 200  # this machine needs no code
    phone = phone_of(home.app)
    refused = phone.get("/")
    assert refused.status_code == 401 and "not paired" in refused.text
    home.app.state.address = "http://192.0.2.1:8000"
    try:
        page = soup(home.post("/me/pair"))
    finally:
        home.app.state.address = ""
    shown = text(page.select_one(".notice code"))
    token = shown.rpartition("/")[2]
    assert shown.startswith("http://192.0.2.1:8000/pair/") and page.select_one("svg.qr") is not None
    look = phone.get(f"/pair/{token}")
    assert look.status_code == 200 and "without TLS" in look.text
    assert phone.get("/").status_code == 401  # looking at the code does not use it up
    assert phone.post(f"/pair/{token}", data={"label": "Van phone"}).status_code == 303
    assert phone.get("/").status_code == 200
    assert phone_of(home.app).post(f"/pair/{token}").status_code == 404
    listed = soup(home.get("/me"))
    assert "Van phone" in text(listed)
    number = listed.select_one("form[action='/me/end'] input[name=number]")["value"]
    home.post("/me/end", data={"number": number})
    assert phone.get("/").status_code == 401
    assert accounts.signed_in(ALONE) == ()


@pytest.mark.parametrize("head", ["x-forwarded-for", "forwarded", "x-real-ip"])
def test_what_comes_by_a_proxy_is_not_this_machine(home, head):
    assert home.get("/", headers={head: "192.0.2.9"}).status_code == 401


def test_this_machine_by_another_name_is_not_this_machine(home):
    assert home.get("/", headers={"host": "van.example"}).status_code in (400, 401)


def test_accounts_do_not_open_at_home_nor_phones_in_a_workshop(workshop, home):
    del home
    accounts = workshop.app.state.services.accounts
    phone = accounts.pair(accounts.invite("phone"), "x")
    workshop.app.state.mode = "accounts"
    assert client_of(workshop.app, phone).get("/").status_code == 303
    workshop.app.state.mode = "lan"
    far = phone_of(workshop.app)
    far.cookies.set(COOKIE, workshop.people["owner"].cookies[COOKIE])
    assert far.get("/").status_code == 401


def test_alone_asks_nobody_for_anything(client):
    assert client.get("/").status_code == 200
    assert client.get("/sign-in").status_code == 404
    assert client.get("/accounts").status_code == 404
    assert client.get(f"/invitation/{TOKEN}").status_code == 404


def test_codes_last_as_long_as_is_said():
    assert accounts_module.CODE_FOR["phone"] == timedelta(minutes=15)
    assert accounts_module.CODE_FOR["account"] == timedelta(days=7)
