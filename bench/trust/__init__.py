"""Whether Air Trim can be trusted with the only copy of an interview: ``make bench-trust``.

Each part runs alone as well, as ``python -m bench.trust kills 100``; what each found last stands in
``docs/reliability.md``.
"""
