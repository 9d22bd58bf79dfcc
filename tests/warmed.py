"""Imported by the process that servers are forked from: their kernels are ready then."""

from airtrim.core.render.warm import warm_up

warm_up()
