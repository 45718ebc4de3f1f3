"""What a rig is made of: links and their bandwidth, what fits, how parts are written.

Describes and derives; what was measured on a rig is not looked at.
"""

__all__ = [
    "cautions",
    "compatibility",
    "daily",
    "dial",
    "differences",
    "fields",
    "links",
    "machine_report",
    "meter_notation",
    "notation",
    "noting",
    "pasted",
    "plugs",
    "preflight",
    "rig_edits",
    "strip",
    "typed_places",
    "video_timing",
    "worth_notation",
]
