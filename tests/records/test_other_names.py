"""A data file under other names: links to it, and a backup without its photos. One server by the file, whatever it is called."""

import os
from pathlib import Path

import pytest

from saldatura.records import data_file
from saldatura.records.bench import Bench
from saldatura.records.database import Database
from saldatura.records.soundness import told_of
from tests.commanding import spawned
from tests.conftest import SAFE, intake, picture
from tests.records.test_data_file import unusable


@pytest.mark.parametrize("link", ["symbolic", "hard"])
def test_a_served_file_has_one_server_and_no_restore_under_any_name(tmp_path: Path, link: str) -> None:
    real, other = tmp_path / "shop.sqlite3", tmp_path / "elsewhere" / "other.sqlite3"
    other.parent.mkdir()
    backup = tmp_path / "backup.sqlite3"
    db = Database(real, serving=True)
    bench = Bench(db)
    bench.take_in(intake(), SAFE)
    db.backup(backup)
    other.symlink_to(real) if link == "symbolic" else os.link(real, other)
    for serving in (True, False) if link == "hard" else (True,):
        with unusable("served_already" if link == "symbolic" else "served_under_another_name"):
            Database(other, serving=serving)
    with unusable("in_use" if link == "symbolic" else "served_under_another_name"):
        data_file.restore(backup, other)
    # Under its own name another program of the same user still reads it.
    beside = Database(real)
    assert Bench(beside).facts(1).intake.pack_name == "Test pack"
    beside.close()
    for k in range(3):
        assert bench.take_in(intake(), SAFE).facts.id == k + 2
    db.close()
    again = Database(other, serving=True)
    assert Bench(again).facts(4).intake.pack_name == "Test pack"
    again.close()


def test_another_process_finds_the_hard_link_served(tmp_path: Path) -> None:
    real, other = tmp_path / "shop.sqlite3", tmp_path / "other.sqlite3"
    db = Database(real, serving=True)
    os.link(real, other)
    ran = spawned(other, "serve", "--port", "0")
    with unusable("served_under_another_name") as found:
        Database(other)
    assert (ran.returncode, ran.stderr.strip()) == (2, str(found.value))
    db.close()


def test_a_backup_says_where_its_photos_are_and_that_they_are_missing(tmp_path: Path) -> None:
    db = Database(tmp_path / "shop.sqlite3")
    bench = Bench(db)
    bench.take_in(intake(), SAFE)
    bench.add_photo(1, picture(), "")
    target, alone = tmp_path / "backup.sqlite3", tmp_path / "usb" / "backup.sqlite3"
    db.backup(target)
    assert "belongs to it" in "\n".join(told_of(target))
    alone.parent.mkdir()
    alone.write_bytes(target.read_bytes())
    assert "1 of its 1 photo is not in backup.sqlite3.photos" in "\n".join(told_of(alone))
    db.close()
    data_file.restore(alone, tmp_path / "fresh.sqlite3")
    assert "not in fresh.sqlite3.photos" in data_file.photos_beside(tmp_path / "fresh.sqlite3")
