"""Runs the code of a notebook, and tells what it gives: ``python tests/notebook.py docs/yard.ipynb`` writes that into it."""

from __future__ import annotations

import ast
import contextlib
import io
import json
import os
import sys
import tempfile
from pathlib import Path
from typing import Any


def outputs_of(notebook: dict[str, Any]) -> list[list[dict[str, Any]]]:
    """Run the cells in turn where one stands, and return the outputs of each code cell, as nbformat 4 writes them."""
    names: dict[str, Any] = {"__name__": "__main__"}
    found = []
    for cell in notebook["cells"]:
        if cell["cell_type"] == "code":
            found.append(_outputs(ast.parse("".join(cell["source"])), names, len(found) + 1))
    return found


def _outputs(code: ast.Module, names: dict[str, Any], count: int) -> list[dict[str, Any]]:
    last = code.body.pop() if code.body and isinstance(code.body[-1], ast.Expr) else None
    printed = io.StringIO()
    with contextlib.redirect_stdout(printed):
        exec(compile(code, "<cell>", "exec"), names)
        value = eval(compile(ast.Expression(last.value), "<cell>", "eval"), names) if last is not None else None
    outputs: list[dict[str, Any]] = []
    if printed.getvalue():
        outputs.append(
            {"name": "stdout", "output_type": "stream", "text": printed.getvalue().splitlines(keepends=True)}
        )
    if value is not None:
        data = {"text/plain": repr(value).splitlines(keepends=True)}
        if hasattr(value, "_repr_html_"):
            data["text/html"] = value._repr_html_().splitlines(keepends=True)
        outputs.append({"data": data, "execution_count": count, "metadata": {}, "output_type": "execute_result"})
    return outputs


def main() -> None:
    """Run a notebook in a folder with the demo yard, and write its outputs into it."""
    from yardcut.core.progress import CancelToken, Progress
    from yardcut.demo.files import write_yard

    path = Path(sys.argv[1]).resolve()
    notebook = json.loads(path.read_text())
    with tempfile.TemporaryDirectory() as folder:
        write_yard(Path(folder), None, CancelToken(), Progress())
        os.chdir(folder)
        outputs = iter(outputs_of(notebook))
        for count, cell in enumerate((each for each in notebook["cells"] if each["cell_type"] == "code"), 1):
            cell["outputs"], cell["execution_count"] = next(outputs), count
    path.write_text(json.dumps(notebook, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
