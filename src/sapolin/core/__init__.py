"""The job's rules and arithmetic: pure functions over frozen models, without web, database or files.

Start at :func:`sapolin.core.bar.calculation.calculate`, which turns a formula into every quantity the maker sees,
and :func:`sapolin.core.bar.explanations.explain`, which says how one quantity came about.
"""
