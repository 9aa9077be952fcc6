"""The notebook of the documentation gives what stands in it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from notebook import outputs_of

NOTEBOOK = Path(__file__).parents[2] / "docs" / "yard.ipynb"


def test_the_notebook_gives_what_stands_in_it(yard: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(yard)
    notebook = json.loads(NOTEBOOK.read_text())
    written = [cell["outputs"] for cell in notebook["cells"] if cell["cell_type"] == "code"]
    assert outputs_of(notebook) == written, f"python tests/notebook.py {NOTEBOOK} writes them anew"
    assert sum(map(bool, written)) >= 5
    shown = [
        output["data"]["text/html"]
        for outputs in written
        for output in outputs
        if "text/html" in output.get("data", {})
    ]
    assert len(shown) == 1
    assert "".join(shown[0]).startswith('<div class="yardcut">')
