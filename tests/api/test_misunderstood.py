"""A value that cannot be is told in plain words, with its name and its bounds."""

from typing import Any

import pytest

from airtrim.api.misunderstood import misunderstood
from tests.api.host import Host

PAGE = {"revision": 1, "start": 0, "frames": 48_000}


@pytest.mark.parametrize(
    ("page", "value", "told"),
    [
        ("page", {"frames": 0}, "frames must be more than 0"),
        ("page", {"frames": "many"}, "frames must be a whole number"),
        ("page", {"frames": None}, "frames is missing"),
        ("page", {"start": -1}, "start must be at least 0"),
        ("find", {"text": "a" * 201}, "text must be at most 200 characters long"),
        ("around", {"unit": "verse", "at": 0}, "unit must be one of "),
    ],
)
def test_a_value_out_of_bounds_is_told_with_its_name_and_bounds(
    host: Host, page: str, value: dict[str, Any], told: str
) -> None:
    asked = {name: given for name, given in (PAGE | value).items() if given is not None}
    answer = host.client.get(f"/api/episodes/{host.new_episode()}/{page}", params=asked)
    assert answer.status_code == 422
    assert answer.json()["sentence"].startswith(f"That was not understood: {told}")


@pytest.mark.parametrize(
    ("edit", "told"),
    [
        ({"kind": "cut", "start": -1, "frames": 5}, "start must be at least 0."),
        ({"kind": "cut", "start": 0.5, "frames": 5}, "start must be a whole number."),
        ({"kind": "cut", "start": 0, "frames": 5, "softly": 1}, "softly is not known here."),
        ({"kind": "unheard_of"}, "is of no kind that is known here."),
        ({}, "does not say of which kind it is."),
    ],
)
def test_an_edit_that_cannot_be_is_told_in_plain_words(
    host: Host, edit: dict[str, Any], told: str
) -> None:
    answer = host.edit(host.filled(), edit)
    assert answer.status_code == 422
    assert answer.json()["sentence"].endswith(told)


@pytest.mark.parametrize(
    ("sent", "told"),
    [("{", "what was sent is not JSON."), ("[]", "what was sent must be an object.")],
)
def test_what_is_no_object_is_told_as_a_whole(host: Host, sent: str, told: str) -> None:
    json = {"content-type": "application/json"}
    answer = host.client.post("/api/shows", content=sent, headers=json)
    assert answer.status_code == 422
    assert answer.json()["sentence"] == f"That was not understood: {told}"


def test_what_has_no_words_here_keeps_its_own() -> None:
    odd = {"type": "url_scheme", "loc": ("body", "link"), "msg": "URL scheme should be https"}
    told = "That was not understood: link: URL scheme should be https."
    assert misunderstood(odd) == told
