"""Audiences to start from: lines that readers often draw. Common practice, no source."""

from blunt_ruler.core.records.pricing import Audience

TEMPLATES = (
    Audience(name="Twice the frames", gain_at_least=1.0),
    Audience(name="Smooth at 60", low_at_least_fps=45.0),
    Audience(name="Nearly a tower", loss_at_most=0.1),
    Audience(name="On a budget", gain_at_least=0.5, budget=500.0),
    Audience(name="On the move", carry_at_most_kg=3.0, docking_at_most_min=2.0),
    Audience(name="In a quiet room", noise_at_most_dba=35.0),
)
