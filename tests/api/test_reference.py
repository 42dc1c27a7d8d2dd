"""The API's description as a page: everything is in it, and it asks for nothing."""

import html.parser

from jaunecharge.api.reference import kind_of, reference
from tests.serving import ServedTest


class Page(html.parser.HTMLParser):
    """Anchors, links, tags and texts of a page."""

    def __init__(self, text):
        super().__init__()
        self.ids, self.links, self.tags, self.asked, self.texts = set(), [], set(), [], []
        self.feed(text)

    def handle_starttag(self, tag, attributes):
        self.tags.add(tag)
        for name, value in attributes:
            if name == "id":
                assert value not in self.ids, f"twice: {value}"
                self.ids.add(value)
            if name == "href":
                self.links.append(value)
            if name in {"src", "srcset", "action"}:
                self.asked.append(value)

    def handle_data(self, text):
        self.texts.append(text)


class Reference(ServedTest):
    def setUp(self):
        answer = self.web.get("/api/reference")
        self.assertEqual((answer.status_code, answer.headers["content-type"]), (200, "text/html; charset=utf-8"))
        self.text = answer.text
        self.page = Page(answer.text)
        self.spec = self.web.get("/api/openapi.json").json()

    def test_every_address_and_every_shape_is_in_it(self):
        texts = set(self.page.texts)
        for path in self.spec["paths"]:
            self.assertIn(path, texts)
        for name in self.spec["components"]["schemas"]:
            self.assertIn(f"shape-{name}", self.page.ids)
        count = sum(m in ("get", "post", "put", "patch", "delete") for o in self.spec["paths"].values() for m in o)
        self.assertEqual(self.text.count("<details"), count)

    def test_it_asks_for_nothing_and_its_links_lead_somewhere(self):
        self.assertEqual(self.page.tags & {"script", "link", "img", "iframe", "form", "object"}, set())
        self.assertEqual(self.page.asked, [])
        self.assertNotIn("url(", self.text)
        for link in self.page.links:
            with self.subTest(link):
                if link.startswith("#"):
                    self.assertIn(link[1:], self.page.ids)
                else:
                    self.assertEqual(self.web.get(link).status_code, 200)

    def test_what_is_described_is_text_not_markup(self):
        made = reference(
            {
                "info": {"title": "<b>x</b>", "version": "1"},
                "paths": {"/<i>": {"get": {"description": "<script>", "responses": {"200": {"description": ""}}}}},
                "components": {"schemas": {}},
            }
        )
        self.assertEqual(Page(made).tags & {"b", "i", "script"}, set())

    def test_kinds_in_words(self):
        for schema, said in (
            ({"type": "array", "items": {"$ref": "#/components/schemas/Run"}}, "list of Run"),
            ({"anyOf": [{"type": "number", "minimum": 0, "maximum": 9}, {"type": "null"}]}, "number, 0 to 9 or none"),
            ({"enum": ["a", "b"]}, "“a” or “b”"),
            ({"type": "string", "format": "uuid"}, "uuid"),
            ({"type": "object", "additionalProperties": {"type": "integer"}}, "map to integer"),
            ({"type": "string", "maxLength": 40}, "string, at most 40 letters"),
            ({}, "anything"),
        ):  # fmt: skip
            self.assertEqual(kind_of(schema), said)
