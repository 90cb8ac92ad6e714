import pytest
from hypothesis import settings

settings.register_profile("ci", derandomize=True, max_examples=100, deadline=None)
settings.load_profile("ci")


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
