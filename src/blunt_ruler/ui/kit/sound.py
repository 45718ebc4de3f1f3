"""One short sound that is heard across a room: two notes up for good, two down for a halt."""

import math
import struct
import wave
from pathlib import Path

from PyQt6.QtWidgets import QApplication

RATE_HZ, NOTE_S = 22_050, 0.18
GOOD, HALT = (660.0, 990.0), (660.0, 440.0)


def write_notes(path: Path, notes_hz: tuple[float, ...]) -> Path:
    """Notes one after the other as a sound file, each swelling and fading; that file."""
    count = int(RATE_HZ * NOTE_S)
    samples = [
        int(22_000 * math.sin(math.pi * at / count) * math.sin(2 * math.pi * hz * at / RATE_HZ))
        for hz in notes_hz
        for at in range(count)
    ]
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE_HZ)
        file.writeframes(struct.pack(f"<{len(samples)}h", *samples))
    return path


class Sounds:
    """Plays through the system's sound where Qt has one, else rings the system's bell."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._kept: list[object] = []

    def play(self, notes_hz: tuple[float, ...]) -> None:
        """Play some notes; never an error, for a missing sound is no fault of a pass."""
        try:
            from PyQt6.QtCore import QUrl
            from PyQt6.QtMultimedia import QSoundEffect
        except ImportError:  # Qt's sound needs libraries that not every system has
            QApplication.beep()
            return
        self._folder.mkdir(parents=True, exist_ok=True)
        path = self._folder / f"{'-'.join(f'{hz:.0f}' for hz in notes_hz)}.wav"
        if not path.exists():
            write_notes(path, notes_hz)
        effect = QSoundEffect()
        effect.setSource(QUrl.fromLocalFile(str(path)))
        effect.play()
        self._kept = [effect]  # it is heard only as long as somebody holds it
