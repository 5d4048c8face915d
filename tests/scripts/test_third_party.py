"""What is installed and served of others: every licence is known and allows it, and the page names it."""

from scripts.third_party import DOCS, Part, parts


def test_every_licence_is_known_and_allows_the_use() -> None:
    found = parts()
    assert {each.kind for each in found} == {"Python", "Front end", "Font", "Native library"}
    assert [each for each in found if not each.may_be_used] == []


def test_the_page_names_what_is_there() -> None:
    page = (DOCS / "third-party.md").read_text(encoding="utf-8")
    missing = [each.name for each in parts() if f"| {each.name} |" not in page]
    assert missing == []


def test_a_licence_that_is_unknown_or_not_free_is_found() -> None:
    for licence in ("unknown", "", "SEE LICENSE IN LICENSE", "MIT AND Proprietary", "CC-BY-NC-4.0"):
        assert not Part("x", "1", licence, "Python").may_be_used
    for licence in ("MIT", "(MIT OR CC0-1.0)", "GPL-3.0-or-later WITH GCC-exception-3.1"):
        assert Part("x", "1", licence, "Python").may_be_used
