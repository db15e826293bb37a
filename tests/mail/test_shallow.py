"""No HTML is too deep, too broken or too long to be read."""

import unittest

from hieranome.mail.html_text import HtmlText
from hieranome.mail.shallow import MAX_DEPTH, shallow
from tests.generated import given, st

BROKEN = (
    "<b>", "<div><span>", "<table>", "<a href=x>", "<blockquote>x", "<", "<!--", "<div x", "<div title='>'>", "</p>",
    "<div/>", "<p>", "<li>", "<td>", "<table><tr><td>", "<ul><li>", "<dl><dd>", "<ruby><rt>", "<p a='<b>'>", "<style>",
    "<select><option>",
)  # fmt: skip


class ShallowTest(unittest.TestCase):
    def test_deep_nesting_is_flattened(self) -> None:
        """What is deeper than any real message keeps its words, without its tags."""
        html = "<div>" * 3_000 + "deep" + "</div>" * 3_000 + "after"
        flat, _ = shallow(html)
        self.assertEqual(flat.count("<div>"), MAX_DEPTH)
        self.assertTrue(flat.endswith("after"))
        self.assertEqual(HtmlText(html).text.split(), ["deepafter"])

    def test_ordinary_html_stays_as_it_is(self) -> None:
        """Long but flat mail loses nothing."""
        html = "<ul>" + "<li>one<br>two<img src=x></li>" * 2_000 + "<li>open" * 2_000 + "</ul>" + "<p>end" * 2_000
        flat, cut = shallow(html)
        self.assertFalse(cut)
        self.assertEqual(flat.replace("</li>", "").replace("</p>", ""), html.replace("</li>", ""))

    def test_broken_html_of_any_length_is_read(self) -> None:
        """Megabytes of tags that never end do not keep the reader from the words before them."""
        for piece in BROKEN:
            with self.subTest(piece):
                self.assertTrue(HtmlText("first words " + piece * 60_000).text.startswith("first words"))

    @given(st.text(alphabet="<>/ab '\"!-= ", max_size=300))
    def test_words_outside_tags_are_never_lost(self, noise: str) -> None:
        """Whatever stands around it, text before the first tag stays first."""
        self.assertTrue(shallow("kept" + noise * 60)[0].startswith("kept"))
