"""`python -m saldatura`."""

from saldatura.cli import main

main()
