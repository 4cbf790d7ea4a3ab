"""Makes once what every hand of the tests would make for itself: the demo they look at, and what is compiled on the way to it."""

import tempfile
from pathlib import Path

from saldatura.records.database import Database
from tests.conftest import kept_demo


def main() -> None:
    """Keep both where the tests look for them."""
    with tempfile.TemporaryDirectory() as folder:
        db = Database(Path(folder) / "demo.sqlite3")
        kept_demo(db)
        db.close()


if __name__ == "__main__":
    main()
