"""Who is let in, what may be sent, and that whatever is answered is a sentence. Headers: Fetch
Metadata (W3C), Cross-Origin-Resource-Policy (WHATWG Fetch), cookies (RFC 6265bis), from memory."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from airtrim.api.app import create_app
from airtrim.api.calls import CLOSED_LINK
from airtrim.api.sessions import Sessions
from airtrim.settings import Settings
from tests.api.host import HERE, THERE, Host

TOKEN = "harbour-at-six-in-the-morning"


@pytest.fixture
def guarded(tmp_path: Path) -> Iterator[TestClient]:
    """A client of an application that asks for a token."""
    settings = Settings(data_dir=tmp_path / "data", token=TOKEN, keep_free_bytes=0)
    with TestClient(create_app(settings, worker=False), base_url=HERE) as client:
        yield client


@pytest.mark.parametrize(
    "headers",
    [
        {"Host": "elsewhere.example"},
        {"Host": "testserver"},
        {"Host": "["},
        {"Host": "[::1"},
        {"Host": ""},
        {"Origin": "https://elsewhere.example"},
        {"Origin": "http://["},
        {"Origin": "null"},
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
    ],
)
def test_other_sites_and_broken_headers_are_turned_away(host: Host, headers) -> None:
    answer = host.client.get("/api/shows", headers=headers)
    assert answer.status_code == 403
    assert answer.json()["sentence"]
    assert answer.headers["cross-origin-resource-policy"] == "same-origin"
    assert "default-src 'self'" in answer.headers["content-security-policy"]


@pytest.mark.parametrize("host_header", ["127.0.0.1:8765", "localhost:8765", "[::1]:8765"])
def test_its_own_pages_are_let_in(host: Host, host_header: str) -> None:
    """Another port is another site; the same one, with its port, is none."""
    own = {"Host": host_header, "Origin": f"http://{host_header}"}
    assert host.client.get("/api/shows", headers=own).status_code == 200
    other = {**own, "Origin": f"http://{host_header.replace('8765', '8766')}"}
    assert host.client.get("/api/shows", headers=other).status_code == 403


def test_nothing_can_be_played_from_another_site(host: Host) -> None:
    episode = host.filled()
    sound = f"/api/episodes/{episode}/audio?revision=1&start=0&frames=4800"
    assert host.client.get(sound, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403
    own = host.client.get(sound, headers={"Sec-Fetch-Site": "same-origin"})
    assert own.status_code == 200
    assert own.headers["cross-origin-resource-policy"] == "same-origin"


def test_a_body_that_is_too_long_is_refused_before_it_is_read(guarded: TestClient) -> None:
    """Also where nobody has been let in: 400 MB on their way to a guest's address."""
    read = 0

    def body() -> Iterator[bytes]:
        nonlocal read
        for _ in range(400):
            read += 1_000_000
            yield b" " * 1_000_000

    answer = guarded.post("/api/join/x/recordings", content=body())
    assert answer.status_code == 413
    assert "64 kB" in answer.json()["sentence"]
    told = guarded.post("/api/shows", content=b"x", headers={"Content-Length": "400000000"})
    assert told.status_code in (403, 413)


def test_a_long_json_of_the_host_is_refused_too(host: Host) -> None:
    answer = host.client.post("/api/shows", content=(b" " * 1_000_000 for _ in range(11)))
    assert answer.status_code == 413
    assert "10 MB" in answer.json()["sentence"]


def test_the_token_leaves_the_address_bar_for_a_session(guarded: TestClient) -> None:
    answer = guarded.get(f"/episodes/3/edit?token={TOKEN}", follow_redirects=False)
    assert answer.status_code == 303
    assert answer.headers["location"] == "/episodes/3/edit"
    cookie = answer.headers["set-cookie"]
    assert TOKEN not in cookie
    assert "HttpOnly" in cookie
    assert "samesite=strict" in cookie.lower()
    assert "Secure" not in cookie
    assert guarded.get("/api/shows").status_code == 200


def test_under_tls_the_session_is_for_tls_only(tmp_path: Path) -> None:
    settings = Settings(data_dir=tmp_path / "data", token=TOKEN, keep_free_bytes=0)
    app = create_app(settings, worker=False)
    with TestClient(app, base_url="https://studio.example") as client:
        answer = client.get(f"/?token={TOKEN}", follow_redirects=False)
        assert "Secure" in answer.headers["set-cookie"]


def test_a_redirect_leads_nowhere_else(guarded: TestClient) -> None:
    answer = guarded.get(f"//elsewhere.example/x?token={TOKEN}", follow_redirects=False)
    assert not answer.headers.get("location", "/").startswith("//")


def test_sessions_are_signed_and_end() -> None:
    sessions = Sessions(TOKEN)
    session = sessions.begin()
    assert sessions.holds(session)
    assert not sessions.holds(session[:-1] + ("0" if session[-1] != "0" else "1"))
    assert not sessions.holds("")
    assert not sessions.holds("..")
    assert not Sessions("another-token-of-some-length").holds(session)
    old = f"{int(session.split('.')[0]) - 31 * 24 * 3600}.ab"
    assert not sessions.holds(f"{old}.{sessions._sign(old)}")


def test_wrong_tokens_are_slowed_down_and_a_session_goes_on(guarded: TestClient) -> None:
    guarded.get(f"/?token={TOKEN}")
    session = dict(guarded.cookies)
    guarded.cookies.clear()
    for number in range(20):
        wrong = {"Authorization": f"Bearer guess-{number}"}
        assert guarded.get("/api/shows", headers=wrong).status_code == 403
    right = {"Authorization": f"Bearer {TOKEN}"}
    answer = guarded.get("/api/shows", headers=right)
    assert answer.status_code == 403
    assert "Wait a minute" in answer.json()["sentence"]
    assert guarded.get("/api/shows", cookies=session).status_code == 200


def test_links_that_lead_nowhere_are_slowed_down(guarded: TestClient) -> None:
    answers = [guarded.get(f"/api/join/guess-{number}").status_code for number in range(22)]
    assert answers == [410] * 20 + [429] * 2


def test_wrong_links_count_over_the_socket_of_the_call_too(guarded: TestClient) -> None:
    for number in range(20):
        with (
            pytest.raises(WebSocketDisconnect) as closed,
            guarded.websocket_connect(f"/api/join/guess-{number}/call") as call,
        ):
            call.receive_json()
        assert closed.value.code == CLOSED_LINK
    with (
        pytest.raises(WebSocketDisconnect) as closed,
        guarded.websocket_connect("/api/join/guess/call") as call,
    ):
        call.receive_json()
    assert closed.value.code == 1008
    assert guarded.get("/api/join/guess").status_code == 429


@pytest.mark.parametrize(("base", "sent"), [("https", True), ("http", False)])
def test_browsers_are_told_to_stay_with_tls_where_it_is_served(
    tmp_path: Path, base: str, sent: bool
) -> None:
    """RFC 6797, section 7.2: not over a connection without TLS."""
    settings = Settings(data_dir=tmp_path / "data", token=TOKEN, keep_free_bytes=0)
    app = create_app(settings, worker=False)
    with TestClient(app, base_url=f"{base}://studio.example") as client:
        assert ("strict-transport-security" in client.get("/healthz").headers) == sent


def test_the_description_of_the_api_asks_for_the_token(guarded: TestClient) -> None:
    assert guarded.get("/api/openapi.json").status_code == 403
    assert guarded.get("/openapi.json").headers["content-type"].startswith("text/html")


def test_health_is_told_to_anybody_and_says_nothing_of_what_is_kept(guarded: TestClient) -> None:
    assert guarded.get("/healthz").json() == {"status": "ok"}
    ready = guarded.get("/readyz")
    assert ready.status_code == 200
    assert ready.json() == {
        "ready": True, "database": True, "folder": True, "room": True, "worker": True
    }  # fmt: skip


def test_without_room_it_is_not_ready(host: Host, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(host.state.store.files, "_keep_free_bytes", 10**18)
    answer = host.client.get("/readyz")
    assert answer.status_code == 503
    assert answer.json()["room"] is False


HUGE = 2**63
ODD = [
    ("GET", f"/api/episodes/{HUGE}", None),
    ("GET", "/api/episodes/99999999999999999999999", None),
    ("GET", "/api/episodes/-1", None),
    ("GET", f"/api/episodes/1?revision={HUGE}", None),
    ("GET", f"/api/episodes/1/page?revision={HUGE}&start=0&frames=1", None),
    ("GET", f"/api/episodes/1/page?revision=1&start={HUGE}&frames=1", None),
    ("GET", f"/api/episodes/1/next?revision=1&what=word&at={HUGE}", None),
    ("GET", f"/api/jobs?episode_id={HUGE}", None),
    ("PUT", "/api/recordings/x/pieces/-1?start=0", b"\0" * 400),
    ("PUT", f"/api/recordings/x/pieces/0?start={HUGE}", b"\0" * 400),
    ("PUT", f"/api/recordings/x/pieces/0?start=0&run={HUGE}", b"\0" * 400),
    ("POST", "/api/episodes/1/undo", {"revision": HUGE}),
    ("POST", "/api/episodes/1/jump", {"revision": 1, "to": HUGE}),
    ("POST", "/api/episodes/1/edits", {"revision": 1, "edit": {"kind": "restore", "cut": HUGE}}),
    ("POST", "/api/episodes/1/edits", {"revision": 1, "edit": {"kind": "restore", "cut": -1}}),
    ("POST", "/api/episodes/1/edits", {"revision": 1, "edit": {"kind": "\ud800"}}),
    ("POST", "/api/shows", {"name": "\ud800"}),
    ("POST", "/api/shows", {"\ud800": 1}),
    ("POST", "/api/shows", b"[" * 100_000),
    ("POST", "/api/shows", b"\xff\xfe"),
    ("DELETE", "/api/chains/9223372036854775808", None),
    ("PATCH", f"/api/shows/{HUGE}", {"deleted": True}),
    ("DELETE", "/api/shows", None),
    ("POST", "/api/clock", None),
    ("GET", "/api/nothing/here", None),
    ("PUT", "/api/takes/x/transcript?name=a.json", b"[" * 100_000),
    ("PUT", "/api/takes/x/transcript?name=a.srt", b"9" * 800),
    ("DELETE", "/api/uploads/.", None),
]


@pytest.mark.parametrize(("method", "address", "body"), ODD)
def test_odd_requests_are_refused_with_a_sentence(host: Host, method, address, body) -> None:
    host.filled()
    sent = {"content": body} if isinstance(body, bytes) else {"json": body} if body else {}
    if isinstance(body, dict):
        import json

        sent = {"content": json.dumps(body), "headers": {"Content-Type": "application/json"}}
    answer = host.client.request(method, address, **sent)
    assert 400 <= answer.status_code < 500, answer.text
    assert answer.json()["sentence"]


def test_more_columns_than_frames_are_drawn(host: Host) -> None:
    episode = host.filled()
    revision = host.view(episode)["revision"]
    wave = f"/api/episodes/{episode}/waveform?revision={revision}&start=0&frames=1&columns=2000"
    answer = host.client.get(wave)
    assert answer.status_code == 200
    assert len(answer.content) == 2 * 2000


def test_a_binary_frame_ends_no_call(host: Host) -> None:
    episode = host.new_episode()
    with host.client.websocket_connect(f"{THERE}/api/episodes/{episode}/call") as call:
        assert call.receive_json()["kind"] == "hello"
        call.send_bytes(b"\x00\x01")
        call.send_text("\x00")
        with host.client.websocket_connect(f"{THERE}/api/episodes/{episode}/call"):
            assert call.receive_json()["kind"] == "came"


def test_a_link_opens_a_call_in_a_few_windows_only(host: Host) -> None:
    from contextlib import ExitStack

    from starlette.websockets import WebSocketDisconnect

    episode = host.new_episode()
    address = f"{THERE}/api/episodes/{episode}/call"
    with ExitStack() as open_ones:
        for _ in range(6):
            open_ones.enter_context(host.client.websocket_connect(address)).receive_json()
        seventh = open_ones.enter_context(host.client.websocket_connect(address))
        with pytest.raises(WebSocketDisconnect) as out:
            seventh.receive_json()
        assert out.value.code == 4429
