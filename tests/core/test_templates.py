"""Templates: results as Mustache defines them, and no template with any value takes long."""

from __future__ import annotations

import re
import subprocess
import sys
from typing import Any

import pystache
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from cuejar.core.rules.templates import MOST_OUT, TemplateError, filled_in, parsed
from cuejar.core.rules.words import filled

NAMES = ("viewer", "party", "party.size", "lines", "empty", "nothing", ".")
VALUES: dict[str, Any] = {
    "viewer": "owlpost",
    "party": {"size": 12, "viewer": "nine_gauge"},
    "lines": ["up", "down", "siding"],
    "empty": [],
    "off": False,
}
TEXT = st.text("aé }\n!", max_size=8).filter(lambda text: "{{" not in text and "}}" not in text and "{" not in text)


def _tags(inside: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    names = st.sampled_from(NAMES)
    return st.one_of(
        names.map(lambda name: f"{{{{ {name} }}}}"),
        names.map(lambda name: f"{{{{&{name}}}}}"),
        st.builds(lambda name, part: f"{{{{#{name}}}}}{part}{{{{/{name}}}}}", names, inside),
        st.builds(lambda name, part: f"{{{{^{name}}}}}{part}{{{{/{name}}}}}", names, inside),
        st.just("{{! the yard }}"),
    )


TEMPLATES = st.recursive(
    TEXT, lambda inside: st.lists(st.one_of(TEXT, _tags(inside)), max_size=4).map("".join), max_leaves=12
)


@given(TEMPLATES)
@settings(max_examples=300)
def test_what_comes_of_a_template_is_what_another_program_makes_of_it(template: str) -> None:
    # For a line with only a tag, the other program keeps the blanks after it; here the whole line is removed.
    template = re.sub(r"\}\} +(?=\n|\Z)", "}}", template)
    other = pystache.Renderer(escape=lambda text: text, missing_tags="ignore")
    try:
        ours = filled_in(template, VALUES, str)
    except TemplateError:
        return  # Deeper or longer than we accept.
    assert ours == other.render(template, VALUES)


def test_sections_and_lines() -> None:
    text = "Calls:\n{{#lines}}\n  * {{.}}\n{{/lines}}\nby {{party.viewer}} {{#party}}({{size}}, {{viewer}}){{/party}}{{^empty}}!{{/empty}}"
    assert filled(text, VALUES) == "Calls:\n  * up\n  * down\n  * siding\nby nine_gauge (12, nine_gauge)!"
    assert filled('{"who": "{{{viewer}}}"}', {"viewer": 'a"b'}, "json") == '{"who": "a\\"b"}', (
        "no way around the escaping"
    )
    assert filled("{{viewer", VALUES) == "{{viewer" and filled("{{>viewer}}|", VALUES) == "|"


@pytest.mark.parametrize(
    ("template", "why"),
    [
        ("{{=<% %>=}}<%&viewer%>", "keeps {{ and }}"),
        ("{{#lines}}", "is not closed"),
        ("{{/lines}}", "closes nothing"),
        ("{{#lines}}{{#empty}}{{/lines}}{{/empty}}", "closes nothing"),
        ("{{#a}}" * 9 + "{{/a}}" * 9, "sections deep"),
        ("{{a}}" * 201, "places"),
        ("{{" + "a" * 201 + "}}", "longer than 200"),
        ("x" * 10_001, "longer than 10,000"),
    ],
)
def test_what_is_not_taken_is_said(template: str, why: str) -> None:
    with pytest.raises(TemplateError, match=why):
        parsed(template)


HOSTILE = {
    "spaces": "'{{' + ' ' * 3900, {}",
    "spaces twice": "('{{' + ' ' * 20) * 150, {}",
    "open braces": "'{{{' * 1300, {}",
    "lines of spaces": "(' ' * 30 + chr(10)) * 100 + '{{#a}}' + (' ' * 30 + chr(10)) * 100, {}",
    "nested lists": "'{{#p}}' * 4 + 'x' + '{{/p}}' * 4, {'p': list(range(300))}",
    "nested lists of nothing": "'{{#p}}' * 8 + '{{/p}}' * 8, {'p': list(range(300))}",
    "long values": "'{{#p}}{{t}}{{/p}}', {'p': list(range(300)), 't': 'x' * 100_000}",
    "deep names": "'{{' + 'a.' * 99 + 'a}}', {'a': {}}",
}


@pytest.mark.parametrize("what", HOSTILE)
def test_no_template_stops_the_show(what: str) -> None:
    """In a process of its own, which is abandoned after a while: earlier ones never ended."""
    code = (
        "from cuejar.core.rules.words import filled\n"
        "try: print(len(filled(*(" + HOSTILE[what] + ",))))\n"
        "except ValueError as error: print(str(error)[-80:])\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=30, check=False)
    assert done.returncode == 0, done.stderr
    told = done.stdout.strip()
    assert "is not closed" in told or "more than" in told or int(told) <= MOST_OUT, told
