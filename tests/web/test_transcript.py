"""The transcript as a host works on it: corrected, held against a script, taken out, brought in."""

import re
from pathlib import Path

import webvtt
from playwright.sync_api import Page, Route, expect

from tests.serving import RATE, Server
from tests.waiting import eventually
from tests.web.test_tasks import all_words, edited, open_edit, word


def texts(server: Server) -> list[str]:
    return [w["text"] for w in all_words(server, server.episode(1)["revision"])]


def test_all_of_the_same_are_corrected_and_two_words_joined(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    count = sum(re.sub(r"\W", "", t).lower() == "ferry" for t in texts(server))
    assert count > 1
    word(page, "ferry").click()
    page.get_by_label("Written as").fill("packet")
    page.get_by_role("button", name="Correct it wherever it is written").click()
    now = edited(page, server, view["revision"])
    assert now["undo"] == f"Corrected {count} words to “packet”"
    assert now["frames"] == view["frames"]
    expect(word(page, "packet")).to_be_visible()
    page.keyboard.press("Escape")
    word(page, "past").click()
    page.keyboard.press("Shift+ArrowLeft")
    page.get_by_role("button", name="Write them as one word").click()
    edited(page, server, now["revision"])
    expect(word(page, "tenpast")).to_be_visible()
    expect(word(page, "past")).to_have_count(0)


def test_a_script_is_pasted_and_its_spelling_taken_over(page: Page, server: Server) -> None:
    open_edit(page)
    page.get_by_text("Hold it against a script").click()
    page.get_by_role("button", name="Write or paste it").click()
    script = [t for t in texts(server) if t not in ("um", "uh", "ah")]
    at = script.index("white")
    assert script[at - 1] == "small"
    script[at] = "WHITE"
    del script[script.index("slowest")]
    page.get_by_role("textbox", name="Script or notes").fill(" ".join(script))
    page.get_by_role("button", name="Keep it").click()
    held = page.get_by_test_id("script")
    expect(held.get_by_role("status")).to_have_text("1 place differs.")
    expect(held).to_contain_text("Came in")
    held.get_by_role("button", name="slowest").click()
    assert page.locator("[data-word][data-marked]").all_inner_texts() == ["slowest"]
    held.get_by_role("button", name="Write 1 word as the script does").click()
    expect(word(page, "WHITE")).to_be_visible()
    assert server.episode(1)["undo"] == "Took over the script’s spelling"


def test_it_goes_out_as_a_file_and_comes_in_as_one(
    page: Page, server: Server, tmp_path: Path
) -> None:
    page.goto("/episodes/1/release?step=files")
    with page.expect_download() as waiting:
        page.get_by_test_id("transcripts").get_by_role("link", name="WebVTT").click()
    assert waiting.value.suggested_filename == "Slow Crossing - The six o’clock boat.vtt"
    out = tmp_path / "out.vtt"
    waiting.value.save_as(out)
    cues = webvtt.read(str(out)).captions
    assert {cue.voice for cue in cues} == {"Tobin", "Marit"}
    assert "small white boat" in " ".join(cue.text for cue in cues).replace("\n", " ")
    # In: the host's question, two seconds long, gets other words.
    vtt = tmp_path / "question.vtt"
    vtt.write_text("WEBVTT\n\n00:00.100 --> 00:02.100\nHow did you begin on boats?\n")
    page.get_by_role("link", name="Edit", exact=True).click()
    page.get_by_role("tab", name="Takes").click()
    page.get_by_label("Transcript of Host question").set_input_files(vtt)
    eventually(lambda: "begin" in texts(server), page)
    assert " ".join(texts(server)).count("How did you begin on boats?") == 1
    page.get_by_label("Position").fill("2:19")
    page.keyboard.press("Enter")
    expect(page.locator("[data-word]").filter(has_text="boats?")).to_be_visible()
    broken = tmp_path / "broken.vtt"
    broken.write_text("WEBVTT\n\n00:09.000 --> 00:02.100\nHow?\n")
    page.get_by_label("Transcript of Host question").set_input_files(broken)
    expect(page.get_by_text("ends before it begins")).to_be_visible()


def test_a_turn_gets_its_speaker_and_long_lines_are_paragraphs(page: Page, server: Server) -> None:
    open_edit(page)
    view = server.episode(1)
    said = [w for w in all_words(server, view["revision"]) if w["start"] < 20 * RATE]
    word(page, "white").click()
    expect(page.get_by_test_id("selected")).to_contain_text("white")
    late: list[Route] = []
    page.route("**/page?*", lambda route: late.append(route))
    page.keyboard.press("e")
    # The server is asked which sentence it is.
    expect(page.locator("[data-word][data-marked]").nth(3)).to_be_visible()
    # Named before it is known which words these are: all of them are meant.
    page.get_by_label("Another name").fill("Ilva Sund")
    page.keyboard.press("Enter")
    eventually(lambda: late, page)
    while late:
        late.pop().continue_()
    page.unroute("**/page?*")
    named = edited(page, server, view["revision"])
    assert named["undo"] == "Ilva Sund speaks here"
    assert named["frames"] == view["frames"]
    expect(page.get_by_test_id("page").get_by_text("Ilva Sund")).to_be_visible()
    page.keyboard.press("Escape")
    for seconds in (10, 20):
        page.keyboard.press("-")
        expect(page.get_by_text(f"{seconds} s a line")).to_be_visible()
    turns = page.locator("[data-line='0'] p")
    expect(turns).to_have_count(2)
    # Who speaks, then the words; air chips stand between them.
    read = [re.sub(r"\d+\.\d s ", "", turn.inner_text()) for turn in turns.all()]
    first = next(i for i, w in enumerate(said) if w["text"] == "It")
    texts_of = [" ".join(w["text"] for w in part) for part in (said[:first], said[first:])]
    assert read == [f"Ilva Sund {texts_of[0]}", f"Tobin {texts_of[1]}"]
    # Dragged from a word to beside the end of its row: to the last word of the row.
    begin = turns.first.locator("[data-word]").nth(2).bounding_box()
    last = turns.first.locator("[data-word]").last.bounding_box()
    assert begin
    assert last
    page.mouse.move(begin["x"] + 4, begin["y"] + 8)
    page.mouse.down()
    page.mouse.move(last["x"] + last["width"] + 40, last["y"] + 8, steps=5)
    page.mouse.up()
    marked = page.locator("[data-word][data-marked]")
    expect(marked.first).to_be_visible()
    assert marked.all_inner_texts() == [w["text"] for w in said[2:first]]
    selected = page.get_by_test_id("selected")
    expect(selected).to_contain_text(" ".join(w["text"] for w in said[2:first]))
    # Somebody else has that name everywhere; then all of it is taken back.
    page.get_by_label("Another name").fill("Ilva")
    page.get_by_role("button", name="Ilva Sund is Ilva everywhere").click()
    expect(turns.first).to_contain_text(re.compile("^Ilva (?!Sund)"))
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(turns).to_have_count(1)


def test_places_that_were_found_before_an_edit_are_cut_only_once_they_are_known_again(
    page: Page, server: Server
) -> None:
    open_edit(page)
    view = server.episode(1)
    page.keyboard.press("/")
    page.keyboard.type("the ferry")
    found = page.get_by_test_id("find")
    expect(found.get_by_role("status")).to_contain_text(re.compile(r"\d+ places"))
    late: list[Route] = []
    page.route("**/find?*", lambda route: late.append(route))
    word(page, "slowest").click()
    page.keyboard.press("Delete")
    edited(page, server, view["revision"])
    cut = found.get_by_role("button", name=re.compile("^Cut th"))
    expect(cut).to_be_disabled()
    expect(found.get_by_role("checkbox").first).to_be_visible()
    eventually(lambda: late, page)
    while late:
        late.pop().continue_()
    page.unroute("**/find?*")
    expect(cut).to_be_enabled()
