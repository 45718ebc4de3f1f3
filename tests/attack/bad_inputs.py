"""Files that are no logs, or logs that were damaged: bytes with nothing right about them."""

import gzip

import numpy as np

from attack.odd_logs import odd_log, pick

LARGE = 4_000_000  # bytes of the large ones


def damaged(rng):
    """A log with some bytes changed, cut, doubled or swapped."""
    body = bytearray(odd_log(int(rng.integers(1_000_000))).body)
    for _ in range(int(rng.integers(1, 12))):
        at = int(rng.integers(len(body)))
        how = int(rng.integers(6))
        if how == 0:
            body[at] = int(rng.integers(256))
        elif how == 1:
            del body[at : at + int(rng.integers(1, 200))]
        elif how == 2:
            body[at:at] = bytes(
                pick(rng, (b'"', b"\r", b"\x00", b",,,", b"\n\n", b"\xff\xfe", b"1e999"))
            )
        elif how == 3:
            body[at:at] = body[: int(rng.integers(400))]
        elif how == 4:
            body = body[: max(at, 1)]
        else:
            body[at:at] = str(pick(rng, (-1, 1e308, 1e-320, float("nan"), 10**40))).encode()
        if not body:
            body = bytearray(b"1")
    return bytes(body)


def noise(rng):
    """Random bytes, or random letters of tables."""
    size = int(rng.integers(1, 5000))
    if rng.random() < 0.3:
        return rng.integers(0, 256, size, dtype=np.uint8).tobytes()
    letters = np.frombuffer(b"0123456789.,;:\t |\"'\n\r\n\n-+eE%#/fpsmn \xc3\xa9\x00", np.uint8)
    return rng.choice(letters, size).tobytes()


def torn_gzip(rng):
    """A packed log cut short, altered, or followed by something else."""
    body = bytearray(gzip.compress(odd_log(int(rng.integers(1_000_000))).body))
    how = int(rng.integers(3))
    if how == 0:
        return bytes(body[: int(rng.integers(2, len(body)))])
    if how == 1:
        body[int(rng.integers(2, len(body)))] ^= 255
        return bytes(body)
    return bytes(body) + rng.integers(0, 256, 50, dtype=np.uint8).tobytes()


SMALL = (damaged, damaged, damaged, noise, torn_gzip)


def large():
    """Large files with one thing wrong all over, by name; each of about LARGE bytes."""
    rows = LARGE // 14
    good = b"".join(b"16.%03d,97.5%03d\n" % (i % 1000, i % 7) for i in range(rows))
    return {
        "good": b"frametime,load\n" + good,
        "digits in a cell": b"frametime,load\n" + (b"1" * 16_000 + b",5\n") * (LARGE // 16_000),
        "digits and letters": b"frametime\n" + (b"1" * 16_000 + b"x\n") * (LARGE // 16_000),
        "many columns": (b"16.7," * 20_000 + b"\n") * (LARGE // 100_000),
        "one line": b"16.7," * (LARGE // 5),
        "one line of digits": b"7" * LARGE,
        "a short header": b",".join(b"c%d" % i for i in range(25))
        + b"\n"
        + (b"1," * 39 + b"7\n") * (LARGE // 80),
        "quotes": b"a,b\n" + b'1,"2\n' * (LARGE // 5),
        "nothing but quotes": b'"' * LARGE,
        "an opening quote": b"frametime,load\n" + good + b'16.7,"',
        "an opening quote early": b'frametime,load\n16.7,"97\n' + good,
        "lone returns": b"a,b\r" + b"16.7,5\r" * (LARGE // 7),
        "mixed ends": b"a,b\r\n" + b"16.7,5\r16.9,5\n\n" * (LARGE // 15),
        "nulls behind": b"frametime\n" + b"16.7\n" * 1000 + b"\x00" * LARGE,
        "nulls between": b"frametime\n" + b"16.7\n\x00\x00\x00\x00" * (LARGE // 9),
        "blank lines": b"frametime,load\n" + b"\n" * LARGE,
        "spaces": b" " * LARGE,
        "commas": b"," * LARGE,
        "words": b"the quick brown fox jumps\n" * (LARGE // 26),
        "words in numbers": b"frametime,load\n" + b"16.7,5\nslow,5\n" * (LARGE // 14),
        "ragged": b"a,b,c\n" + b"1.5,2,3\n1.5,2\n1.5,2,3,4\n" * (LARGE // 26),
        "headers": b"frametime,load\n" * (LARGE // 15),
        "clock of one stamp": b"time (s)\n" + b"12.5\n" * (LARGE // 5),
        "clock to and fro": b"time (s)\n" + b"12.5\n12.4\n" * (LARGE // 10),
        "utf-16 of words": ("words and words\n" * (LARGE // 32)).encode("utf-16"),
        "zeros packed": gzip.compress(b"\x00" * (64 * LARGE), 1),
        "numbers packed": gzip.compress(b"16.7\n" * LARGE, 1),
        "colons": b"12:12:12:12:12\n" * (LARGE // 15),
        "minus": b"frametime\n" + b"-16.7\n" * (LARGE // 6),
        "large numbers": b"frametime,load\n" + b"1e300,1e300\n" * (LARGE // 12),
        "small numbers": b"frametime,load\n" + b"1e-320,1e-320\n" * (LARGE // 14),
        "dots": b"." * 500_000 + b"\n" + b"1.2.3.4\n" * (LARGE // 8),
        "thousands": b"frametime\n" + b"1,1,1,1,1,1,1,1\n" * (LARGE // 16),
    }
