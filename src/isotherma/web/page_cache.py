"""A page of a vehicle nobody has changed since is answered from what is kept, without making it.

It is named after all that decides it: the shown revision with those before and after it, the
address, the person's units and light, whole or part, and the code. A reader who names it in turn
is told that it is the same. Browsers are still told to store nothing: going back to a page after an
edit must show the edit, and they would not ask again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from typing import Final

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from isotherma.core.cache import Cache, Caches
from isotherma.services.readiness import KERNELS
from isotherma.services.stored_results import code_digest
from isotherma.services.vehicles import Vehicles
from isotherma.services.visitors import visitor
from isotherma.web.rendering import is_htmx, scheme_of, units_of, visit_of

VARY: Final = "HX-Request, Cookie"


class PageCache:
    """Keeps pages as they were sent.

    Parameters
    ----------
    caches : Caches
        Where they are kept. [-]
    vehicles : Vehicles
        Whose revisions name them. [-]
    also : callable
        Names what else every page hangs on: classes of one's own. [-]
    """

    def __init__(
        self, caches: Caches, vehicles: Vehicles, also: Callable[[], object] = lambda: None
    ) -> None:
        self._also = also
        self._pages: Cache[bytes] = Cache(caches, "page", len)
        self._vehicles = vehicles

    def answer(
        self, request: Request, vehicle_id: int, make: Callable[[], Response],
        whole: Callable[[], bool] = lambda: True,
    ) -> Response:  # fmt: skip
        """Give a vehicle's page as `answer_of` does; NotFound if the vehicle is gone."""
        return self.answer_of(
            request, lambda: (self._vehicles.mark(vehicle_id), self._also()), make, whole
        )

    def answer_of(
        self, request: Request, mark: Callable[[], object], make: Callable[[], Response],
        whole: Callable[[], bool] = lambda: True,
    ) -> Response:  # fmt: skip
        """Give a page as it is kept, or make it, and keep it if it is whole.

        `mark` names the revisions that decide what it shows; `whole` is asked once it is made.
        """
        if KERNELS.waits() is not None:
            return make()
        tag = self._tag(request, mark())
        headers = {"ETag": f'"{tag}"', "Vary": VARY}
        if f'"{tag}"' in request.headers.get("if-none-match", ""):
            return Response(status_code=304, headers=headers)
        body = self._pages.peek(tag)
        if body is None:
            made = make()
            if made.status_code != 200:
                return made
            body = bytes(made.body)
            # an edit meanwhile: what was made may be of either revision
            if not whole() or self._tag(request, mark()) != tag:
                return HTMLResponse(body, headers={"Vary": VARY})
            self._pages.put(tag, body)
        return HTMLResponse(body, headers=headers)

    def _tag(self, request: Request, mark: object) -> str:
        said = (
            code_digest(), mark, request.url.path, request.url.query,
            units_of(request).value, scheme_of(request), is_htmx(request), visit_of(request),
            visitor().account_id,
            request.headers.get("host", ""),
        )  # fmt: skip
        return hashlib.sha256(repr(said).encode()).hexdigest()[:32]
