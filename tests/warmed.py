"""Imported by the process that servers are forked from: their kernels are ready then, and what
they would import at their first request is there."""

import uvicorn.lifespan.on
import uvicorn.loops.auto
import uvicorn.protocols.http.auto
import uvicorn.protocols.websockets.auto  # noqa: F401

from airtrim.core.render.warm import warm_up

warm_up()
