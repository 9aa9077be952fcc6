"""``columns``, ``make`` and ``save`` leave the rows as they are: what they do is in the columns, or on disk."""

from __future__ import annotations

from yardcut.core.run.executing.works.work import Work

UNCHANGED = Work()
