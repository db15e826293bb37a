"""The measurements can be run: each loads with what the application offers now."""

import importlib.util
import sys
import unittest
from pathlib import Path

BENCH = Path(__file__).parent.parent / "bench"


class BenchTest(unittest.TestCase):
    def test_every_measurement_loads(self) -> None:
        """None names anything that is not there any more."""
        for path in sorted(BENCH.glob("*.py")):
            with self.subTest(path=path.name):
                name = f"measurement_{path.stem}"
                found = importlib.util.spec_from_file_location(name, path)
                assert found is not None
                assert found.loader is not None
                module = importlib.util.module_from_spec(found)
                sys.modules[name] = module
                self.addCleanup(sys.modules.pop, name)
                found.loader.exec_module(module)
