"""The application: services, guards, routes, errors as pages."""

from __future__ import annotations

import secrets

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import Response
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException
from starlette.staticfiles import StaticFiles

from isotherma.core.errors import ChangeRefused
from isotherma.services.comparing import Comparing
from isotherma.services.computing import Computing
from isotherma.services.flows import Flowing
from isotherma.services.vehicles import NotFound, Vehicles
from isotherma.services.warming import warm
from isotherma.settings import Settings
from isotherma.store.engine import open_engine, open_sessions
from isotherma.web.context import Services
from isotherma.web.guards import Guards
from isotherma.web.pages.home import MessagePage
from isotherma.web.rendering import STATIC, render
from isotherma.web.routes import changing, design, home, sums, versions
from isotherma.web.tidying import Tidying

log = structlog.get_logger()


def create() -> FastAPI:
    """Make the application from the environment."""
    settings = Settings.from_environment()
    if settings.database_url is None:
        raise RuntimeError("DATABASE_URL is not set; start with bin/start")
    warm()
    return make_app(settings.database_url, settings.hosts)


def make_app(database_url: str, hosts: tuple[str, ...]) -> FastAPI:
    """Make the application on a database."""
    app = FastAPI(title="Isotherma", docs_url=None, redoc_url=None, openapi_url=None)
    engine = open_engine(database_url)
    app.state.services = Services(
        Vehicles(open_sessions(engine)), Computing(), Flowing(), Comparing()
    )
    app.state.engine = engine
    app.add_middleware(Tidying)
    app.add_middleware(Guards, hosts=hosts)
    app.mount("/static", StaticFiles(directory=STATIC), name="static")
    app.include_router(home.router)
    app.include_router(sums.router)
    app.include_router(versions.router)
    app.include_router(design.router)
    app.include_router(changing.router)
    _errors(app)
    return app


def _message(request: Request, status: int, title: str, text: str) -> Response:
    return render(request, MessagePage(title=title, text=text, status=status), status)


def _errors(app: FastAPI) -> None:
    """Turn every error into a page that says what, and what to do."""

    @app.exception_handler(NotFound)
    @app.exception_handler(ChangeRefused)
    def not_found(request: Request, _: Exception) -> Response:
        return _message(
            request, 404, "That is not here",
            "It may have been deleted or renamed in another window. Nothing was changed.",
        )  # fmt: skip

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

    @app.exception_handler(OperationalError)
    def no_database(request: Request, error: Exception) -> Response:
        number = secrets.token_hex(4)
        log.error("database unreachable", number=number, exc_info=error)
        return _message(
            request, 503, "The database does not answer",
            "Nothing was changed. Stop Isotherma, start it again with bin/start, and repeat the "
            f"last step. Reference {number}.",
        )  # fmt: skip

    @app.exception_handler(Exception)
    def bug(request: Request, error: Exception) -> Response:
        number = secrets.token_hex(4)
        log.error("unexpected", number=number, path=request.url.path, exc_info=error)
        return _message(
            request, 500, "Isotherma made a mistake",
            f"What was saved is kept. Please report the reference {number}; the log has the rest.",
        )  # fmt: skip
