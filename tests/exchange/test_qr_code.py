"""QR codes: as they are drawn, and read back by hand."""

import re

import pytest

from sapolin.exchange.qr_code import QUIET, qr_rows, qr_svg

ADDRESS = "https://192.168.1.20:8720/pair?code=ABCD2345"
FINDER = ("1111111", "1000001", "1011101", "1011101", "1011101", "1000001", "1111111")


@pytest.mark.parametrize("text", ["x", ADDRESS, "ö" * 60])
def test_three_corners_have_the_mark_by_which_a_camera_finds_it(text: str) -> None:
    rows = qr_rows(text)
    side = len(rows)
    assert (side - 21) % 4 == 0
    corner = lambda top, left: tuple(row[left : left + 7] for row in rows[top : top + 7])  # noqa: E731
    assert [corner(0, 0), corner(0, side - 7), corner(side - 7, 0)] == [FINDER] * 3
    assert corner(side - 7, side - 7) != FINDER
    # The lines of alternating squares between the marks.
    assert rows[6][8 : side - 8] == ("10" * side)[: side - 16]
    assert "".join(row[6] for row in rows[8 : side - 8]) == ("10" * side)[: side - 16]


def read(rows: tuple[str, ...]) -> bytes:
    """The text of a code of version 3 in bytes mode, before its correction: by the standard's own steps."""
    side = len(rows)
    assert side == 29
    form = rows[8][0:6] + rows[8][7:9] + rows[7][8]
    mask = int(form[2:5], 2) ^ 0b101
    rules = (
        lambda i, j: (i + j) % 2, lambda i, _: i % 2, lambda _, j: j % 3, lambda i, j: (i + j) % 3,
        lambda i, j: (i // 2 + j // 3) % 2, lambda i, j: i * j % 2 + i * j % 3,
        lambda i, j: (i * j % 2 + i * j % 3) % 2, lambda i, j: ((i + j) % 2 + i * j % 3) % 2,
    )  # fmt: skip

    def is_fixed(i: int, j: int) -> bool:
        finders = (i < 9 and (j < 9 or j > side - 9)) or (i > side - 9 and j < 9)
        return finders or 6 in (i, j) or (20 <= i <= 24 and 20 <= j <= 24)

    bits, up, right = "", True, side - 1
    while right > 0:
        right -= right == 6
        for i in range(side - 1, -1, -1) if up else range(side):
            for j in (right, right - 1):
                if not is_fixed(i, j):
                    bits += str(int(rows[i][j]) ^ (rules[mask](i, j) == 0))
        right, up = right - 2, not up
    assert bits[:4] == "0100"
    length = int(bits[4:12], 2)
    return bytes(int(bits[12 + 8 * n : 20 + 8 * n], 2) for n in range(length))


def test_what_a_camera_reads_is_what_was_written() -> None:
    assert read(qr_rows("https://10.77.0.1:8720/pair?a=1")).decode() == "https://10.77.0.1:8720/pair?a=1"


def test_the_drawing_has_the_same_squares_and_room_around_them() -> None:
    rows, drawn = qr_rows(ADDRESS), qr_svg(ADDRESS)
    dark = {(int(x) - QUIET, int(y) - QUIET) for x, y in re.findall(r"M(\d+) (\d+)h1v1h-1z", drawn)}
    assert dark == {(x, y) for y, row in enumerate(rows) for x, square in enumerate(row) if square == "1"}
    side = len(rows) + 2 * QUIET
    assert f'viewBox="0 0 {side} {side}"' in drawn
