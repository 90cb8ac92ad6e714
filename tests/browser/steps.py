"""What several stories do alike."""

from contextlib import contextmanager


def run_of(bench):
    """The number of the run whose paths are shown, and how far it is."""
    return bench.wait("main.work").get_attribute("data-run")


@contextmanager
def planned(bench):
    """Do something that has paths planned anew, and wait until they are proved."""
    bench.until(lambda: run_of(bench).endswith("done"), "the paths of before", 90)
    before = run_of(bench)
    yield
    bench.until(
        lambda: run_of(bench) != before and run_of(bench).endswith("done"), "the paths planned", 90
    )
    # The route card follows at once.
    bench.wait(".card .cell[data-station='5']", text="not yet stamped", seconds=10)
