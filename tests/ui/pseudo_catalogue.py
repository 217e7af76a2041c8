#!/usr/bin/env python3
"""A language that nobody speaks, for tests: every sentence that scripts/messages finds, with other letters. What a screen
still says in English then, no translator was asked for.

usage: pseudo_catalogue.py FOLDER    makes FOLDER/xx/LC_MESSAGES/upland-wren.mo
"""
import pathlib
import re
import subprocess
import sys

root = pathlib.Path(__file__).resolve().parent.parent.parent
LETTERS = str.maketrans("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ",
                        "àƀçđéƒğĥïĵķłɱñöþǫřšŧüʋŵẋýžÀɃÇĐÉƑĞĤÏĴĶŁṀÑÖÞǪŘŠŦÜɅŴẊÝŽ")
# Gaps, tags, what stands for a sign, and what a string escapes.
KEPT = re.compile(r"\{[^{}]*\}|%L?\d+|%n|<[^<>]*>|&[a-z]+;|\\.")


def other(text):
    out, at = "", 0
    for kept in KEPT.finditer(text):
        out += text[at:kept.start()].translate(LETTERS) + kept.group(0)
        at = kept.end()
    return out + text[at:].translate(LETTERS)


def told(block):
    """The paragraph with its translation in it."""
    ids = re.findall(r'^msgid(?:_plural)? ((?:".*"\n?)+)', block, re.M)
    texts = [other("".join(re.findall(r'"(.*)"', i))) for i in ids]
    plural = len(texts) > 1
    head = block[:block.index("msgstr")]
    return head + "\n".join(f'msgstr{f"[{k}]" if plural else ""} "{t}"' for k, t in enumerate(texts))


def main():
    folder = pathlib.Path(sys.argv[1]) / "xx" / "LC_MESSAGES"
    folder.mkdir(parents=True, exist_ok=True)
    listed = subprocess.run([str(root / "scripts" / "messages"), "--list"], check=True, capture_output=True, text=True).stdout
    blocks = [b for b in listed.split("\n\n")[1:] if "msgid" in b]
    head = ('msgid ""\nmsgstr "Content-Type: text/plain; charset=UTF-8\\n"\n'
            '"Plural-Forms: nplurals=2; plural=n != 1;\\n"\n')
    po = head + "\n" + "\n\n".join(told(b) for b in blocks) + "\n"
    subprocess.run(["msgfmt", "-o", str(folder / "upland-wren.mo"), "-"], input=po, text=True, check=True)


main()
