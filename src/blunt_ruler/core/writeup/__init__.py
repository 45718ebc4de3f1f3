"""The report as a document: sections, sentences, traced figures, corrections, bundle.

File formats are not known here; exchange writes what is composed.
"""

__all__ = [
    "bundle",
    "closing",
    "compose",
    "corrections",
    "document",
    "narration",
    "opening",
    "private_words",
    "results",
    "shots",
    "spoken",
    "trace",
    "worth_section",
]
