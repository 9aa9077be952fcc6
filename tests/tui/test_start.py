"""The first paint must not wait for the engine."""

import subprocess
import sys

HEAVY = ("numpy", "pyarrow", "lark", "re2", "rapidfuzz", "charset_normalizer")


def test_the_app_starts_without_the_heavy_modules(yard: object) -> None:
    script = (
        "import sys\n"
        "from yardcut.tui.app import YardCutApp\n"
        "from yardcut.tui.opened_with import Opening\n"
        "from yardcut.core.sources.spec import SourceSpec\n"
        "YardCutApp(Opening(SourceSpec.of(sys.argv[1])))\n"
        f"print([name for name in {HEAVY!r} if name in sys.modules])\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", script, f"{yard}/yard_2031.csv"], capture_output=True, text=True, check=True
    )
    assert done.stdout.strip() == "[]"
