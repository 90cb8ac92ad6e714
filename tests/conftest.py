import pytest
from hypothesis import settings

settings.register_profile("ci", derandomize=True, max_examples=100, deadline=None)
settings.load_profile("ci")

LONGEST = ("tests/browser", "tests/cli", "tests/shop")
"""What takes longest as one piece, the longest first."""


def pytest_collection_modifyitems(items):
    """Begin with what takes longest, so that where several processes share the tests none is left
    alone with it at the end."""
    ranks = {folder: n for n, folder in enumerate(LONGEST)}

    def rank(item):
        folder = "/".join(item.nodeid.split("/")[:2])
        return ranks.get(folder, len(LONGEST))

    items.sort(key=rank)


@pytest.hookimpl(optionalhook=True)
def pytest_xdist_make_scheduler(config, log):
    """Keep on one process what shares a fixture, where several processes share the tests."""
    from xdist.scheduler import LoadFileScheduling

    class Scheduling(LoadFileScheduling):
        def _split_scope(self, nodeid):
            # All tests in a browser are driven on one stage; other files make what they need once.
            file = super()._split_scope(nodeid)
            return "tests/browser" if file.startswith("tests/browser/") else file

    return Scheduling(config, log)
