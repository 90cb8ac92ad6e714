import pytest
from django.core.cache import cache
from django.core.management import call_command
from django.test import Client, override_settings

from kaigata.shop.models import Order, Part
from kaigata.shop.services import reading
from tests.checks import PARTS

QUICK = ["django.contrib.auth.hashers.MD5PasswordHasher"]
"""Hashing passwords slowly is right for users, and would be most of a test's time here."""


@pytest.fixture(autouse=True)
def quick_passwords(settings):
    settings.PASSWORD_HASHERS = QUICK


@pytest.fixture(autouse=True)
def nothing_worked_out_before():
    cache.clear()


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup, django_db_blocker):
    """The database with shop data in it: every test begins from these and leaves them so."""
    with django_db_blocker.unblock(), override_settings(PASSWORD_HASHERS=QUICK):
        call_command("load_demo", "--stores-only")


@pytest.fixture
def shop(db):
    """Shop data and the demo user, as a first start loads them; loaded again where they are gone.

    A test with transactions of its own leaves nothing behind.
    """
    call_command("load_demo", "--stores-only")


@pytest.fixture
def client(shop):
    """A signed-in client that must carry the token against forged requests."""
    client = Client(enforce_csrf_checks=True)
    client.get("/api/session")
    client.defaults["HTTP_X_CSRFTOKEN"] = client.cookies["csrftoken"].value
    body = {"user": "kestrel", "password": "repair-stand"}
    answer = client.post("/api/session", body, content_type="application/json")
    assert answer.status_code == 200
    client.defaults["HTTP_X_CSRFTOKEN"] = client.cookies["csrftoken"].value
    return client


@pytest.fixture
def order(shop):
    return Order.objects.create(number="T-1", title="Test stands")


@pytest.fixture
def put(order):
    """Put a part onto the rack and read it at once, as a worker would."""

    def put_and_read(name, quantity=1):
        path = PARTS / f"{name}.step"
        line = reading.put_on_rack(order, path.name, path.read_bytes())
        line.quantity = quantity
        line.save()
        reading.read_part(line.part.pk, path.name)
        return Part.objects.get(pk=line.part.pk)

    return put_and_read


@pytest.fixture
def change(client):
    """Change a part's blank as the page does: on the state of it that it shows."""

    def changed(part, *, seen=None, status=200, **body):
        address = f"/api/parts/{part.pk}/blank"
        body["seen"] = seen or client.get(address).json()["state"]
        answer = client.patch(address, body, content_type="application/json")
        assert answer.status_code == status, answer.json()
        return answer.json()

    return changed
