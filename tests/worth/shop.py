"""A small shop of rigs whose every figure can be worked out on paper."""

from blunt_ruler.core.measure.reading import FROM_LOG
from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig
from blunt_ruler.core.records.pricing import Audience, Price, Readings, WorthSettings
from blunt_ruler.core.records.records import (
    Case,
    Meters,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

# (average, 1 % low, watts at the wall) of each rig on each case
RATES = {
    ("built-in", "one"): (20.0, 15.0, 50.0),
    ("built-in", "two"): (45.0, 30.0, 60.0),
    ("cable", "one"): (60.0, 45.0, 190.0),
    ("cable", "two"): (90.0, 60.0, 210.0),
    ("tower", "one"): (80.0, 60.0, 290.0),
    ("tower", "two"): (125.0, 90.0, 310.0),
}


def records():
    """Every record of the shop, ids as one would name them."""
    runs = [
        Run(
            id=f"{rig}-{case}",
            rig_id=rig,
            case_id=case,
            origin=Origin(kind="typed"),
            typed=TypedFigures(average_how=FROM_LOG, average_fps=average, low_1_fps=low),
            meters=Meters(wall_w=watts, noise_dba=40.0, card_c=62.0),
        )
        for (rig, case), (average, low, watts) in RATES.items()
    ]
    seats = tuple(
        ReviewRig(rig_id=rig, role=role)
        for rig, role in zip(
            ("built-in", "cable", "tower"), (Role.BASE, Role.TESTED, Role.REFERENCE), strict=True
        )
    )
    return [
        Host(id="pc", name="Quillon 24", weight_kg=6.0, volume_l=24, cords=1, supply_w=120),
        Host(id="big", name="Workbench tower", weight_kg=9.0, volume_l=38, cords=1, supply_w=650),
        Card(id="ig", name="iG-6", built_in=True),
        Card(id="m12", name="Marram 12", board_power_w=180, weight_kg=1.0, throttles_at_c=88),
        Dock(
            id="box",
            name="Sluice",
            supply_w=330,
            own_power_w=12,
            charging_w=60,
            weight_kg=3.0,
            volume_l=6,
            cords=1,
        ),
        Link(id="cable", name="40 Gb/s cable", cords=1),
        Link(id="slot", name="slot", cords=0),
        Rig(id="built-in", name="Built-in", host_id="pc", card_id="ig"),
        Rig(id="cable", name="Cable", host_id="pc", card_id="m12", dock_id="box", link_id="cable"),
        Rig(id="tower", name="Tower", host_id="big", card_id="m12", link_id="slot"),
        Title(id="t", name="Tidewrack"),
        Case(id="one", title_id="t", resolution="1080p"),
        Case(id="two", title_id="t", resolution="720p"),
        Review(
            id="review",
            name="Review",
            seats=seats,
            case_ids=("one", "two"),
            varies=("host", "screen path"),
            worth=WorthSettings(
                tariff_per_kwh=0.30, play_h_per_week=10, idle_h_per_week=20, years=5
            ),
            audiences=(Audience(name="Anyone", gain_at_least=1.0, budget=1000),),
        ),
        *runs,
        Price(id="pc", amount=900, owned=True),
        Price(id="big", amount=800),
        Price(id="m12", amount=400),
        Price(id="box", amount=250),
        Price(id="cable", amount=50, count=2),
        *(
            Readings(
                id=rig,
                rig_id=rig,
                idle_wall_w=watts,
                ambient_c=22,
                noise_distance_m=0.5,
                background_dba=30,
            )
            for rig, watts in (("built-in", 30.0), ("cable", 50.0), ("tower", 60.0))
        ),
    ]


def with_records(contents, *changed):
    """The same contents with some records put in place."""
    from blunt_ruler.core.records.records import TABLE_OF

    for record in changed:
        contents = contents.with_records({TABLE_OF[type(record)]: {record.id: record}})
    return contents
