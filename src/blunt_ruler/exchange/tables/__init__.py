"""Tables of results: one reader for what is pasted, dropped, opened, imported or compared.

`cells` parts text into cells, `words` takes heads apart, `blocks` finds heads, sections and
footnotes, `arithmetic` knows means and shares by their figures, `reading` puts it together as a
`sheet.Sheet`: cells, questions, and what was left out and why.
"""
