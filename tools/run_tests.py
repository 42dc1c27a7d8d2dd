"""Run the whole suite in parts side by side, or the modules named, and close with a plain line of true counts."""

import contextlib
import re
import subprocess
import sys
import tempfile
import time
import unittest
from collections import Counter
from pathlib import Path
from unittest.case import _SubTest as SubTest

ROOT = Path(__file__).parent.parent
PACKAGES = sorted(p.parent.name for p in (ROOT / "tests").glob("*/__init__.py"))
# The browser's tests take about as long as all others together, and there are two cores; those with processes of
# their own mostly wait for them.
OWN_PROCESSES = ["live", "cli", "fuzz"]
SERVED = ["api", "jobs"]
PARTS = (["browser"], OWN_PROCESSES, SERVED, [p for p in PACKAGES if p not in {"browser", *OWN_PROCESSES, *SERVED}])
# From "FAIL: …" or "ERROR: …" to the next rule of "=" or the closing rule of "-" before "Ran …".
FAILURES = re.compile(r"^(?:FAIL|ERROR): .*?(?=^={70}$|^-{70}\nRan )", re.MULTILINE | re.DOTALL)
COUNTS = re.compile(r"^(\d+) passed, (\d+) failed, (\d+) skipped$", re.MULTILINE)


class Counting(unittest.TextTestResult):
    """A result that also counts what passed, and how long each test took."""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.passed = 0
        self.slowest: list[tuple[float, unittest.TestCase]] = []

    def startTest(self, test):
        self._began = time.monotonic()
        super().startTest(test)

    def stopTest(self, test):
        self.slowest.append((time.monotonic() - self._began, test))
        super().stopTest(test)

    def addSuccess(self, test):
        self.passed += 1
        super().addSuccess(test)

    def addExpectedFailure(self, test, err):
        self.passed += 1
        super().addExpectedFailure(test, err)


def run(suite: unittest.TestSuite, verbosity: int) -> int:
    """Run a suite here; the exit code."""
    result = unittest.TextTestRunner(resultclass=Counting, verbosity=verbosity).run(suite)
    modules: Counter[str] = Counter()
    for seconds, test in result.slowest:
        modules[test.__class__.__module__] += seconds
    listed = [(seconds, str(test)) for seconds, test in result.slowest]
    for seconds, name in sorted(listed, reverse=True)[:5] + [(s, name) for name, s in modules.most_common(12)]:
        print(f"{seconds:6.1f} s  {name}")
    skipped = len(result.skipped)
    outside = sum(1 for test, _ in result.errors if not isinstance(test, unittest.TestCase | SubTest))
    failed = result.testsRun - result.passed - skipped + outside
    print(f"{result.passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if result.wasSuccessful() and result.passed else 1


def run_parts() -> int:
    """Run the parts side by side in processes of their own, what failed said again at the end; the exit code."""
    began = time.monotonic()
    failures: list[str] = []
    command = [sys.executable, __file__, "--packages"]
    passed = failed = skipped = 0
    with contextlib.ExitStack() as stack:
        outputs = [stack.enter_context(tempfile.TemporaryFile("w+")) for _ in PARTS]
        workers = [
            subprocess.Popen([*command, *part], stdout=output, stderr=subprocess.STDOUT)
            for part, output in zip(PARTS, outputs, strict=True)
        ]
        for worker, output in zip(workers, outputs, strict=True):
            worker.wait()
            output.seek(0)
            said = output.read()
            counts = COUNTS.findall(said)
            print(COUNTS.sub("", said).rstrip())
            failures += FAILURES.findall(said)
            if not counts:
                failures.append(f"a part ended without its counts:\n{said[-4000:]}")
                failed += 1
                continue
            p, f, s = map(int, counts[-1])
            passed, failed, skipped = passed + p, failed + f, skipped + s
    for failure in failures:
        print(failure.rstrip())
    print(f"in {time.monotonic() - began:.0f} s")
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 0 if passed and not failed and not any(w.returncode for w in workers) else 1


def main() -> int:
    sys.path.insert(0, str(ROOT))
    loader = unittest.TestLoader()
    match sys.argv[1:]:
        case []:
            return run_parts()
        case ["--packages", *names]:
            suites = [loader.discover(str(ROOT / "tests" / n), top_level_dir=str(ROOT)) for n in names]
            return run(unittest.TestSuite(suites), verbosity=1)
        case names:
            return run(loader.loadTestsFromNames(names), verbosity=2)


if __name__ == "__main__":
    sys.exit(main())
