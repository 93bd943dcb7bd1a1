"""`python -m sapolin`."""

from sapolin.cli import main

main()
