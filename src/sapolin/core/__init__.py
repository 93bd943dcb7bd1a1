"""The job's rules and arithmetic: pure functions over frozen models, without web, database or files.

Start at :func:`sapolin.core.reckoning.reckon`, which turns a formula into every figure the maker sees,
and :func:`sapolin.core.workings.explain`, which says how one figure came about.
"""
