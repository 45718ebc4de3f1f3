"""Texts in pictures, recognised by rapidocr, whose models come inside its wheel.

It is imported where it is used, in the process that reads recordings.
"""

import os
import unicodedata
from collections.abc import Sequence
from functools import cache
from typing import Any, NamedTuple

import numpy as np

from blunt_ruler.core.recordings.found_boxes import Found
from blunt_ruler.core.types import ByteArray

# Channels, height, width that crops are brought to: figures are short; a width of 320, as by
# default, took twice as long.
NARROWEST = [3, 48, 96]
AT_ONCE = 16
WHOLE_SIDE = 736  # pixels that the shorter side of a picture has at least where text is sought
ENLARGED = 2
MOST_THREADS = 2


def _plain(text: Any) -> str:
    """A text with the plain forms of wide signs: the recogniser writes some commas so."""
    return unicodedata.normalize("NFKC", str(text))


class Text(NamedTuple):
    """A text: its characters without spaces, the score of its least clear digit, 0 to 1, and the
    centres of its characters as shares of the width.
    """

    text: str
    score: float
    centres: tuple[float, ...]


def _threads() -> int:
    """As many as are asked for by the usual variable, else two: they wait for each other by
    spinning, so that beside other work two take twice as long as one.
    """
    asked = os.environ.get("OMP_NUM_THREADS", "")
    return min(int(asked), MOST_THREADS) if asked.isdecimal() and int(asked) else MOST_THREADS


@cache
def _engine() -> Any:
    """The recogniser; models are in the wheel, so nothing is fetched."""
    from rapidocr import RapidOCR

    return RapidOCR(
        params={
            "Global.log_level": "critical",
            "Global.text_score": 0.3,
            "EngineConfig.onnxruntime.intra_op_num_threads": _threads(),
            "EngineConfig.onnxruntime.inter_op_num_threads": 1,
            "Rec.rec_img_shape": NARROWEST,
            "Rec.rec_batch_num": AT_ONCE,
        }
    )


def texts_in(crops: Sequence[ByteArray]) -> list[Text]:
    """The text of each crop, shape (h, w, 3), red first."""
    if not crops:
        return []
    engine = _engine()
    engine.return_word_box = True
    read = engine.recognize_txt([np.ascontiguousarray(crop[..., ::-1]) for crop in crops])
    return [
        _text(_plain(text), words) for text, words in zip(read.txts, read.word_results, strict=True)
    ]


def _text(text: str, words: Any) -> Text:
    """A text with the score of its least clear digit and the centres of its characters."""
    if not text or not words.line_txt_len:
        return Text("", 0.0, ())
    signs = [sign for word in words.words for sign in word]
    columns = [column for word in words.word_cols for column in word]
    centres = tuple((column + 0.5) / words.line_txt_len for column in columns)
    plain = [sign for sign in text if not sign.isspace()]
    if len(words.confs) == len(text):
        scores = [score for sign, score in zip(text, words.confs, strict=True) if sign.isdigit()]
    else:
        scores = [min(words.confs, default=0.0)]
    if len(signs) != len(centres) or signs != plain:
        return Text(text, float(min(scores, default=0.0)), ())
    return Text("".join(signs), float(min(scores, default=0.0)), centres)


def texts_on(picture: ByteArray) -> list[Found]:
    """Every text found on a picture or a part of one, shape (height, width, 3), red first, word by
    word.
    """
    engine = _engine()
    if engine.text_det is not None:  # it comes with the first picture, a whole one
        # A part is searched at no more than twice its size: enlarged to the height of a whole
        # picture, as the recogniser does by itself, it took as long as one.
        engine.text_det.limit_side_len = min(WHOLE_SIDE, ENLARGED * min(picture.shape[:2]))
    read = engine(np.ascontiguousarray(picture[..., ::-1]), use_cls=False, return_word_box=True)
    if read.boxes is None:
        return []
    found = []
    for line in read.word_results or ():
        for text, score, corners in line:
            x, y = np.min(corners, axis=0)
            right, bottom = np.max(corners, axis=0)
            found.append(
                Found(_plain(text), float(score), int(x), int(y), int(right - x), int(bottom - y))
            )
    return found
