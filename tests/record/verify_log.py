#!/usr/bin/env python3
"""The chain of a log as docs/record-format.md has it, by Python's own SQLite and SHA-256: prints "ok ROWS:HASH", or
the first row that is wrong. Shares no code with the program."""
import hashlib
import sqlite3
import sys


def netstring(value):
    if value is None:
        return b"-,"
    raw = str(value).encode()
    return str(len(raw)).encode() + b":" + raw + b","


def main(path):
    rows = sqlite3.connect(f"file:{path}?mode=ro", uri=True).execute(
        "SELECT number, kind, role, initials, at_utc, at_local, accessory, instrument, corrects, why, body, previous, hash"
        " FROM entry ORDER BY number").fetchall()
    before = "0" * 64
    for expected, row in enumerate(rows, 1):
        digest = hashlib.sha256(b"needlegauge-log 1," + b"".join(netstring(v) for v in row[:12])).hexdigest()
        if row[0] != expected or row[11] != before or row[12] != digest:
            print("wrong", row[0])
            return 1
        before = digest
    print(f"ok {len(rows)}:{before}")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
