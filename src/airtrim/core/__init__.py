"""Computation only: arrays and frozen models in, arrays and models out.

No web, database, queue, clock or setting may enter here; an import contract keeps it so.
"""
