"""What will be said, held against what the logbook knows: a script, sentence by sentence.

`prose` finds the sentences, `numerals` the numbers and `mentions` the rigs, titles and sizes in
them; `named` says who is spoken of and `grammar` what each number claims, both by the words of
`cues`. `truths` knows what is so, `hold` answers (`numbered` and `unnumbered` by kind, where
`fitting` allows for rounding), `slips` says what was mixed up, `own` has the program's own
sentences, `corrections` puts the truth in; `check` does it for a whole text.
"""

__all__ = [
    "check",
    "comparisons",
    "corrections",
    "cues",
    "fitting",
    "grammar",
    "hold",
    "loose",
    "mentions",
    "named",
    "numbered",
    "numerals",
    "own",
    "prose",
    "rates",
    "ratios",
    "slips",
    "statements",
    "thresholds",
    "truths",
    "unnumbered",
    "verdict",
]
