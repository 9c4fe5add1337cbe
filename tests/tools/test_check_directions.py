"""What tools/check_directions.py must find, in small trees made here."""
import os
import sys
import tempfile
import unittest

sys.path.insert(0, os.path.join(os.path.dirname(__file__), "..", "..", "tools"))
import check_directions  # noqa: E402


class Directions(unittest.TestCase):
    def check(self, files):
        with tempfile.TemporaryDirectory() as root:
            for path, text in files.items():
                os.makedirs(os.path.join(root, os.path.dirname(path)), exist_ok=True)
                with open(os.path.join(root, path), "w", encoding="utf-8") as file:
                    file.write(text)
            return check_directions.check(root)

    def test_down_is_right(self):
        self.assertEqual(self.check({
            "core/base/units.h": "#include <cmath>\n",
            "core/play/engine.h": '#include "base/units.h"\n',
            "app/session/session.h": '#include "play/engine.h"\n',
            "app/shell/window.cpp": '#include <QWidget>\n#include "session/session.h"\n',
        }), [])

    def test_up_is_found(self):
        wrong = self.check({"core/base/units.h": '#include "play/engine.h"\n', "core/play/engine.h": ""})
        self.assertEqual(len(wrong), 1)
        self.assertIn("core/base stands below core/play", wrong[0])

    def test_up_by_a_relative_path_is_found(self):
        self.assertEqual(len(self.check({
            "core/cut/fit.h": '#include "../beat/hand.h"\n', "core/beat/hand.h": ""})), 1)

    def test_stages_do_not_know_each_other(self):
        wrong = self.check({"app/cut/cut_stage.cpp": '#include "keys/keys_stage.h"\n', "app/keys/keys_stage.h": ""})
        self.assertIn("do not know each other", wrong[0])

    def test_of_two_files_of_one_name_the_nearer_is_meant(self):
        # core/beat/hand.h for the core, app/beat/hand.h for the window.
        files = {"core/beat/hand.h": "", "app/beat/hand.h": "", "core/notes/notes.cpp": '#include "beat/hand.h"\n',
                 "app/session/session.h": '#include "beat/hand.h"\n'}
        wrong = self.check(files)
        self.assertEqual(len(wrong), 1)
        self.assertIn("app/session/session.h includes app/beat/hand.h", wrong[0])

    def test_bench_does_not_include_tests(self):
        self.assertEqual(len(self.check({"bench/bench.cpp": '#include "tests/support.h"\n', "tests/support.h": ""})), 1)

    def test_core_does_without_qt(self):
        for header, wrong in (("QString", 1), ("QtCore/QFile", 1), ("queue", 0)):
            self.assertEqual(len(self.check({"core/base/text.h": f"#include <{header}>\n"})), wrong)

    def test_a_circle_is_found(self):
        wrong = self.check({"core/base/a.h": '#include "base/b.h"\n', "core/base/b.h": '#include "base/c.h"\n',
                            "core/base/c.h": '#include "base/a.h"\n'})
        self.assertEqual(len(wrong), 1)
        self.assertIn("in a circle: core/base/a.h -> core/base/b.h -> core/base/c.h -> core/base/a.h", wrong[0])

    def test_a_folder_that_nobody_placed_is_found(self):
        self.assertEqual(len(self.check({"core/attic/old.h": ""})), 1)


if __name__ == "__main__":
    unittest.main()
