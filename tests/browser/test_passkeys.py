"""Passkeys with Chromium's virtual authenticator: registered, signing in, unlocking, opening the device offline."""

import uuid
from typing import Any

import pytest
from playwright.sync_api import expect

from acuthesis.store import access
from acuthesis.store.database import transaction

from .conftest import DESK, Practitioner

PASSWORD = "paper-moon-and-sixpence"


@pytest.fixture
def account(server):
    email = f"key-{uuid.uuid4().hex[:8]}@harbour.example"
    with transaction() as db:
        practice = access.add_practice(db, "Keyed", "Europe/London")
        access.add_practitioner(db, practice.id, "Marit", email, PASSWORD)
    return email


@pytest.fixture
def with_key(chromium, server):
    """A browser at a host name (a passkey belongs to none in figures), with an authenticator that knows `prf`."""
    person: Any = Practitioner(chromium.new_context(**DESK).new_page(), server)
    cdp = person.page.context.new_cdp_session(person.page)
    cdp.send("WebAuthn.enable")
    options = {"protocol": "ctap2", "ctap2Version": "ctap2_1", "transport": "internal", "hasResidentKey": True}
    verified = {"hasUserVerification": True, "isUserVerified": True, "automaticPresenceSimulation": True}
    authenticator = cdp.send("WebAuthn.addVirtualAuthenticator", {"options": {**options, **verified, "hasPrf": True}})
    person.verified = lambda yes: cdp.send(
        "WebAuthn.setUserVerified", {"authenticatorId": authenticator["authenticatorId"], "isUserVerified": yes}
    )
    person.at = f"http://localhost:{server.port}"
    yield person
    person.closes()


def signs_in(person, email):
    person.page.get_by_label("Email").fill(email)
    person.page.get_by_label("Password", exact=True).fill(PASSWORD)
    person.page.get_by_role("button", name="Sign in", exact=True).click()


def registers(person, email, name):
    """Signs in with the password and makes a passkey; returns the section of the account that lists it."""
    person.page.goto(f"{person.at}/account")
    signs_in(person, email)
    section = person.page.locator("section").filter(has=person.page.get_by_role("heading", name="Passkeys"))
    section.get_by_label("Your password").fill(PASSWORD)
    section.get_by_label("Name of the passkey").fill(name)
    section.get_by_role("button", name="Add a passkey").click()
    expect(section.get_by_role("cell", name=name)).to_be_visible()
    return section


@pytest.mark.long
def test_a_passkey_signs_in_unlocks_and_opens_the_device_without_the_server(with_key, account, server):
    page = with_key.page
    section = registers(with_key, account, "Tablet in the harbour room")
    expect(page.get_by_text("opens this device offline.")).to_be_visible()
    codes = section.get_by_role("list", name="Recovery codes").locator("code")
    expect(codes).to_have_count(8)
    recovery = codes.first.inner_text()
    section.get_by_role("button", name="I have written them down").click()

    # Without the server it opens what is kept here, and only for who is verified.
    page.goto(f"{with_key.at}/")
    expect(page.get_by_text("Keyed, today")).to_be_visible()
    page.evaluate("() => navigator.serviceWorker.ready")
    with server.away():
        page.reload()
        page.get_by_role("button", name="Use a passkey").click()
        expect(page.get_by_role("link", name="Week")).to_be_visible()

    # A locked screen opens with it as well.
    page.goto(f"{with_key.at}/account")
    page.evaluate(
        "async () => { const { csrf } = await (await fetch('/api/session')).json();"
        "await fetch('/api/cover', { method: 'POST', headers: { 'X-CSRF': csrf } }); }"
    )
    page.reload()
    page.get_by_role("dialog", name="Screen locked").get_by_role("button", name="Use a passkey").click()
    expect(page.get_by_role("heading", name="Your account")).to_be_visible()

    # It signs in by itself; a password alone no longer does.
    page.get_by_role("button", name="Sign out").click()
    signs_in(with_key, account)
    expect(page.get_by_label("Code")).to_be_visible()
    page.get_by_role("button", name="Sign in with a passkey").click()
    expect(page.get_by_role("button", name="New person").first).to_be_visible()
    page.get_by_role("button", name="Sign out").click()
    signs_in(with_key, account)
    page.get_by_label("Code").fill(recovery)
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("button", name="New person").first).to_be_visible()


def test_an_answer_counts_once_and_for_this_site_only(with_key, account, server):
    page = with_key.page
    registers(with_key, account, "Tablet")
    answered = page.evaluate(
        """async () => {
            const asked = await (await fetch('/api/sign-in/challenge', { method: 'POST' })).json();
            const options = PublicKeyCredential.parseRequestOptionsFromJSON(asked.options);
            const shown = await navigator.credentials.get({ publicKey: options });
            return { token: asked.token, credential: shown.toJSON() };
        }"""
    )

    def sign_in(body, host="localhost"):
        return page.request.post(f"http://{host}:{server.port}/api/sign-in/passkey", data=body)

    changed = {**answered, "token": answered["token"][:-4] + "AAAA"}
    assert sign_in(changed).status == 422, "a challenge of one's own making"
    assert sign_in(answered).status == 200
    again = sign_in(answered)
    assert again.status == 422 and "already used" in again.json()["message"]
    unknown = page.evaluate("async () => (await fetch('/api/sign-in/challenge', { method: 'POST' })).json()")
    nobody = {"token": unknown["token"], "credential": {**answered["credential"], "rawId": "AAAA", "id": "AAAA"}}
    assert sign_in(nobody).status == 401
    elsewhere = page.evaluate("async () => (await fetch('/api/sign-in/challenge', { method: 'POST' })).json()")
    replayed = {"token": elsewhere["token"], "credential": answered["credential"]}
    assert sign_in(replayed, "127.0.0.1").status == 401, "signed for another challenge and another site"
    for broken in ({"token": "x", "credential": {}}, {"token": "", "credential": {"rawId": 5}}, {"token": "x"}):
        assert sign_in(broken).status == 422
