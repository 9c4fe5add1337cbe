#!/usr/bin/env python3
"""What is installed: valid by the packaged checkers, complete, and found where it lies.

Usage: test_install.py SOURCE BUILD
"""
import os
import re
import subprocess
import sys
import tempfile
import unittest

SOURCE, BUILD = sys.argv[1:3]
PLACE = tempfile.TemporaryDirectory()  # everything of this test; goes with the program
HOME = os.path.join(PLACE.name, "home")
os.mkdir(HOME)
ENV = dict(os.environ, HOME=HOME, XDG_DATA_HOME=HOME + "/data", XDG_CONFIG_HOME=HOME + "/config",
           QT_QPA_PLATFORM="offscreen")
ENV.pop("TUVVO_DATA", None)


def run(*words, **more):
    return subprocess.run(words, text=True, capture_output=True, env=ENV, timeout=120, **more)


class Install(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.root = os.path.join(PLACE.name, "root")
        done = run("cmake", "--install", BUILD, "--prefix", cls.root)
        assert done.returncode == 0, done.stderr

    def at(self, *parts):
        return os.path.join(self.root, *parts)

    def test_desktop_file(self):
        done = run("desktop-file-validate", self.at("share/applications/org.tuvvo.Tuvvo.desktop"))
        self.assertEqual((done.returncode, done.stdout), (0, ""))

    def test_signs(self):
        drawn = sorted(os.listdir(os.path.join(SOURCE, "data/icons/signs")))
        self.assertEqual(sorted(os.listdir(self.at("share/tuvvo/icons/signs"))), drawn)

    def test_metainfo(self):
        done = run("appstreamcli", "validate", "--no-net",
                   self.at("share/metainfo/org.tuvvo.Tuvvo.metainfo.xml"))
        self.assertEqual(done.returncode, 0, done.stdout)

    def test_project_files_have_a_type(self):
        done = run("update-mime-database", self.at("share/mime"))
        self.assertEqual(done.returncode, 0, done.stderr)
        with open(self.at("share/mime/types")) as types:
            self.assertIn("application/x-tuvvo-project\n", types.read())
        project = self.at("x.tuvvo")
        done = run(self.at("bin/tuvvo-cli"), "flip", self.at("share/tuvvo/demo/pier nine break.flac"),
                   "--project", project)
        self.assertEqual(done.returncode, 0, done.stderr)
        with open(os.path.join(project, "project.json")) as file:
            self.assertIn('"format": "tuvvo project"', file.read(64 + 26))

    def test_icons(self):
        for size in (16, 24, 32, 48, 64, 128, 256):
            with open(self.at(f"share/icons/hicolor/{size}x{size}/apps/org.tuvvo.Tuvvo.png"), "rb") as icon:
                head = icon.read(24)  # PNG 1.2, 4.1.1: width and height follow the IHDR's name
            self.assertEqual(head[:8], b"\x89PNG\r\n\x1a\n")
            self.assertEqual((int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")), (size, size))
        self.assertTrue(os.path.exists(self.at("share/icons/hicolor/scalable/apps/org.tuvvo.Tuvvo.svg")))

    def test_manuals(self):
        for program in ("tuvvo", "tuvvo-cli"):
            page = self.at(f"share/man/man1/{program}.1")
            done = run("mandoc", "-T", "lint", "-W", "warning", page)
            self.assertEqual(done.stdout, "")
            with open(page) as text:
                words = text.read()
            for option in set(re.findall(r"--([a-z-]+)", run(self.at("bin", program), "--help").stdout)) - {"help-all"}:
                self.assertRegex(words, r"Fl -" + option + r"\b", f"{program} --{option}")
            if program == "tuvvo-cli":
                for command in set(re.findall(r"^  tuvvo-cli ([a-z]+)", run(self.at("bin", program), "--help").stdout, re.M)):
                    self.assertRegex(words, r"\.Cm " + command + r"\b")

    def complete(self, program, *words):
        script = self.at("share/bash-completion/completions", program)
        line = " ".join(f"'{w}'" for w in (program,) + words)
        done = run("bash", "-c", f"source '{script}'; COMP_WORDS=({line}); COMP_CWORD={len(words)}; "
                   f"_{program.replace('-', '_')}; printf '%s\\n' \"${{COMPREPLY[@]}}\"", cwd=HOME)
        self.assertEqual(done.stderr, "")
        return done.stdout.split("\n")[:-1]

    def test_completion(self):
        self.assertEqual(self.complete("tuvvo-cli", "pa"), ["parameters"])
        self.assertEqual(self.complete("tuvvo-cli", "render", "x.tuvvo", "--bits", ""), ["16", "24", "32f"])
        self.assertEqual(self.complete("tuvvo", "--stage", "ke"), ["keys"])
        open(os.path.join(HOME, "a loop.wav"), "w").close()
        self.assertEqual(self.complete("tuvvo-cli", "listen", "a l"), ["a loop.wav"])
        # Every command and option that there is, and no other.
        text = run(self.at("bin/tuvvo-cli"), "--help").stdout
        for command, rest in re.findall(r"^  tuvvo-cli ([a-z]+)(.*)$", text, re.M):
            has = set(self.complete("tuvvo-cli", command, "x", "--"))
            self.assertEqual(has, set(re.findall(r"--[a-z-]+", rest)) | {"--help"}, command)
        has = set(self.complete("tuvvo", "--"))
        text = run(self.at("bin/tuvvo"), "--help").stdout
        self.assertEqual(has, set(re.findall(r"--[a-z-]+", text)) - {"--help-all"})

    def test_data_is_found_where_it_is_installed(self):
        self.assertEqual(run(self.at("bin/tuvvo-cli"), "--version").stdout.split()[0], "tuvvo-cli")
        loop = self.at("share/tuvvo/demo/pier nine break.flac")

        def keys():  # of a beat that is made of a loop and the drums that ship
            project = os.path.join(tempfile.mkdtemp(dir=PLACE.name), "y.tuvvo")
            done = run(self.at("bin/tuvvo-cli"), "flip", loop, "--project", project)
            if done.returncode != 0:
                return 0
            with open(os.path.join(project, "project.json")) as file:
                return file.read().count('"kit": true')

        self.assertGreater(keys(), 10)
        os.rename(self.at("share/tuvvo/kit"), self.at("aside"))  # the source's own drums are no stand-in
        self.assertEqual(keys(), 0)
        os.rename(self.at("aside"), self.at("share/tuvvo/kit"))
        picture = self.at("x.png")
        done = run(self.at("bin/tuvvo"), "--demo", "--screenshot", picture)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertGreater(os.path.getsize(picture), 50_000)


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])
