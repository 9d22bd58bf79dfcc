"""A description in Markdown, as pages and feeds show it: plain formatting, nothing that runs."""

import nh3
from markdown_it import MarkdownIt

_MARKDOWN = MarkdownIt("commonmark", {"breaks": True, "linkify": False, "html": False})
_TAGS = {"p", "br", "em", "strong", "a", "ul", "ol", "li", "blockquote", "code", "h3", "h4", "hr"}
"""What podcast apps show (common practice)."""


def as_html(markdown: str) -> str:
    """HTML of a description: made from Markdown in which HTML is text, then cleaned once more.

    >>> as_html("With *Marit*. <script>alert(1)</script>")
    '<p>With <em>Marit</em>. &lt;script&gt;alert(1)&lt;/script&gt;</p>'
    """
    rendered = _MARKDOWN.render(markdown)
    clean: str = nh3.clean(
        rendered,
        tags=_TAGS,
        attributes={"a": {"href"}},
        url_schemes={"http", "https", "mailto"},
        link_rel="noopener nofollow",
    )
    return clean.strip()
