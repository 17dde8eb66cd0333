"""What a route may ask for: the services of this process."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from isotherma.services.comparisons import Comparing
from isotherma.services.computing import Computing
from isotherma.services.flows import FlowService
from isotherma.services.vehicles import Vehicles
from isotherma.web.page_cache import Unchanged


@dataclass(frozen=True, slots=True)
class Services:
    """The use cases a page can call."""

    vehicles: Vehicles
    computing: Computing
    flowing: FlowService
    comparing: Comparing
    unchanged: Unchanged


def _services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


Have = Annotated[Services, Depends(_services)]
