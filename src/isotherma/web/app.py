"""The application: services, guards, routes, errors as pages."""

from __future__ import annotations

import secrets
from multiprocessing import parent_process

import structlog
from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from isotherma.core.cache import Caches
from isotherma.core.errors import ChangeRefused
from isotherma.services.computing import Busy
from isotherma.services.kernels import compile_kernels
from isotherma.services.long_work import LongWork
from isotherma.services.readiness import KERNELS
from isotherma.services.stored_results import StoredResults
from isotherma.services.vehicles import NotFound
from isotherma.settings import Settings
from isotherma.store.engine import open_engine, open_sessions
from isotherma.web.doors import SignInFirst, guard, sign_in_path
from isotherma.web.frame.message import MessagePage
from isotherma.web.furnishing import services_on
from isotherma.web.idle_collection import IdleCollection
from isotherma.web.live import Live
from isotherma.web.logs import Logging, configure, frames_of
from isotherma.web.parent_process import ends_with_its_thread, follow_parent
from isotherma.web.persons import PersonMiddleware
from isotherma.web.rendering import STATIC, go_to, render
from isotherma.web.rooms import ROOMS, ROUTERS
from isotherma.web.security import SecurityMiddleware

log = structlog.get_logger()
CACHE_BYTES = 90_000_000  # of what was computed; a process of fifty users stays under 500 MB


def create() -> FastAPI:
    """Make the application from the environment."""
    settings = Settings.from_environment()
    if settings.database_url is None:
        raise RuntimeError("DATABASE_URL is not set; start with bin/start")
    KERNELS.begin(compile_kernels)
    app = make_app(settings.database_url, settings.hosts, settings.address)
    app.state.mode, app.state.plain_http = settings.mode, settings.plain_http
    keeper = parent_process()
    if keeper is not None and keeper.pid is not None:  # one of several: never outlives its keeper
        follow_parent(keeper.pid)
        app.router.lifespan_context = ends_with_its_thread
    return app


def make_app(database_url: str, hosts: tuple[str, ...], address: str = "") -> FastAPI:
    """Make the application on a database; `address` is where phones reach it."""
    app = bare_app(hosts)
    app.state.address = address
    furnish(app, database_url)
    return app


def bare_app(hosts: tuple[str, ...]) -> FastAPI:
    """Make the application without a database: guards, routes, errors as pages."""
    app = FastAPI(title="Isotherma", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.rooms, app.state.paths, app.state.address = ROOMS, {}, ""
    configure()
    app.add_middleware(IdleCollection)
    app.add_middleware(PersonMiddleware)
    app.add_middleware(SecurityMiddleware, hosts=hosts)
    app.add_middleware(Logging)
    app.mount("/static", StaticFiles(directory=STATIC), name="static")
    app.state.mode, app.state.plain_http = "alone", False
    for router in ROUTERS:
        app.include_router(router, dependencies=[Depends(guard)])
    _errors(app)
    app.url_path_for("home.show")  # routes are understood when first asked for: not by a person
    return app


def furnish(app: FastAPI, database_url: str, computed: Caches | None = None) -> None:
    """Give an application its services on a database.

    `computed` is what others of this process have computed, whatever their database: days,
    flows, faults, by the content they were made from.
    """
    engine = open_engine(database_url)
    caches, sessions = Caches(CACHE_BYTES), open_sessions(engine)
    keeping = StoredResults(sessions)
    working = LongWork(sessions, keeping)
    app.state.services = services_on(sessions, caches, computed or caches, keeping, working)
    app.state.engine, app.state.keeping = engine, keeping
    app.state.live = Live(database_url)


def _message(request: Request, status: int, title: str, text: str) -> Response:
    if request.url.path.startswith("/api/"):
        problem = {"error": {"code": status, "message": f"{title}. {text}"}}
        return JSONResponse(problem, status_code=status)
    return render(request, MessagePage(title=title, text=text, status=status), status)


def _sign_in(request: Request, error: Exception) -> Response:
    """Send who is not known to where they say who they are."""
    if request.url.path.startswith("/api/"):
        answer = _message(request, 401, "A token is needed", "Send it as: Authorization: "
                          "Bearer TOKEN. It is made under “Signed in as”.")  # fmt: skip
        answer.headers["www-authenticate"] = "Bearer"
        return answer
    if request.app.state.mode == "lan":
        return _message(
            request, 401, "This phone is not paired",
            "On the computer open Menu, “Phones and programs”, and scan the code there.",
        )  # fmt: skip
    assert isinstance(error, SignInFirst)
    return go_to(request, sign_in_path(error.back))


def _errors(app: FastAPI) -> None:
    """Turn every error into a page that says what, and what to do."""

    @app.exception_handler(NotFound)
    @app.exception_handler(ChangeRefused)
    def not_found(request: Request, _: Exception) -> Response:
        return _message(
            request, 404, "That is not here",
            "It may have been deleted or renamed in another window. Nothing was changed.",
        )  # fmt: skip

    app.add_exception_handler(SignInFirst, _sign_in)

    @app.exception_handler(HTTPException)
    def http(request: Request, error: Exception) -> Response:
        status = error.status_code if isinstance(error, HTTPException) else 500
        title = {404: "That is not here", 405: "That cannot be done so"}.get(status, "Not possible")
        return _message(request, status, title, "Check the address, or go back to the vehicles.")

    @app.exception_handler(RequestValidationError)
    def bad_request(request: Request, error: Exception) -> Response:
        names = []
        if isinstance(error, RequestValidationError):
            names = [str(item["loc"][-1]) for item in error.errors()]
        return _message(
            request, 422, "That address does not fit",
            f"A value is missing or out of range: {', '.join(names)[:100]}. Nothing was changed.",
        )  # fmt: skip

    @app.exception_handler(DBAPIError)
    def no_database(request: Request, error: Exception) -> Response:
        assert isinstance(error, DBAPIError)
        title, text = _database_words(error)
        if not title:
            return bug(request, error)
        log.error("database", number=_number(request), state=_state_of(error), what=title)
        answer = _message(request, 503, title, f"{text} Reference {_number(request)}.")
        answer.headers["retry-after"] = "2"
        return answer

    @app.exception_handler(Busy)
    def busy(request: Request, _: Exception) -> Response:
        answer = _message(
            request, 503, "Busy with other computations",
            "As many are under way as this machine has cores, and this one has waited for its "
            "turn. What was saved is kept; load the page again in a moment.",
        )  # fmt: skip
        answer.headers["retry-after"] = "5"
        return answer

    @app.exception_handler(Exception)
    def bug(request: Request, error: Exception) -> Response:
        number = _number(request)
        log.error("unexpected", number=number, where=frames_of(error))
        return _message(
            request, 500, "Isotherma made a mistake",
            f"What was saved is kept. Please report the reference {number}; the log has the rest.",
        )  # fmt: skip


def _number(request: Request) -> str:
    """Give the number a request is known by in the log."""
    return str(getattr(request.state, "number", "")) or secrets.token_hex(4)


def _state_of(error: DBAPIError) -> str:
    """Give PostgreSQL's code of an error; "" where it did not get there."""
    return str(getattr(error.orig, "sqlstate", None) or "")


def _database_words(error: DBAPIError) -> tuple[str, str]:
    """Say what is wrong with the database and what to do; nothing for a fault of ours."""
    state = _state_of(error)
    again = "Isotherma tries again at every page: load it again once that is done."
    if state == "53100":
        return "The disk is full", f"Nothing was changed. Free some room on it. {again}"
    if state in ("25006", "58030", "58P01", "42501"):
        return (
            "The database cannot write",
            "Nothing was changed. Its folder is read-only, or belongs to somebody else; make it "
            f"writable. {again}",
        )
    if isinstance(error, OperationalError | InterfaceError) or error.connection_invalidated:
        return (
            "The database does not answer",
            "Nothing was changed. If PostgreSQL was stopped, start it, or stop Isotherma and start "
            f"it with bin/start. {again}",
        )
    return "", ""
