"""What tools/check_words.py must find, in small trees made here."""
import os
import pathlib
import sys
import tempfile
import unittest

sys.path.insert(0, os.path.join(os.path.dirname(__file__), "..", "..", "tools"))
import check_words  # noqa: E402


class Words(unittest.TestCase):
    def check(self, files, rules="hush(ed)? | dismiss\npapers? | rights and origin | to read papers\n"):
        with tempfile.TemporaryDirectory() as root:
            root = pathlib.Path(root)
            (root / "list.txt").write_text("# a list\n" + rules)
            for path, text in files.items():
                (root / path).parent.mkdir(parents=True, exist_ok=True)
                (root / path).write_text(text)
            return list(check_words.findings(root, list(check_words.banned(root / "list.txt"))))

    def test_a_banned_word_is_found_and_what_to_say_is_told(self):
        found = self.check({"app/shell/drawer.cpp": 'auto* b = new Button(tr("Hush this"), this);\n'})
        self.assertEqual(len(found), 1)
        self.assertIn("app/shell/drawer.cpp:1", found[0])
        self.assertIn("say dismiss", found[0])

    def test_texts_in_several_literals_are_one(self):
        self.assertEqual(len(self.check({"app/a/b.cpp": 'tr("Look at the "\n   "papers");\n'})), 1)

    def test_parts_of_words_comments_and_names_in_code_are_let_be(self):
        self.assertEqual(self.check({"app/a/b.cpp": 'tr("Newspapers");\n// hush\nQStringLiteral("papers");\n'}), [])

    def test_a_phrase_may_be_let_be(self):
        self.assertEqual(self.check({"words/w.cpp": 'return "Stop to read papers here";\n'}), [])

    def test_sentences_of_core_are_read_and_file_formats_are_not(self):
        text = 'Error{"The papers cannot be read."};\n'
        self.assertEqual(len(self.check({"core/crate/marks.cpp": text})), 1)
        self.assertEqual(self.check({"core/formats/marks.cpp": text}), [])

    def test_the_kept_list_can_be_read(self):
        tools = pathlib.Path(check_words.__file__).parent
        self.assertGreater(len(list(check_words.banned(tools / "banned_words.txt"))), 12)


if __name__ == "__main__":
    unittest.main()
