"""The bench plan that the pages of the Plan show: all of it, or what fits into some hours."""

from collections.abc import Callable

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_plan import BenchPlan, enough_line, plan_line, saved_words
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.text import count_text, duration_text, percent_text
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label


class ShownPlan:
    """A bench plan, of which contents it is, and how to say that something typed is wrong."""

    def __init__(self, say_wrong: Callable[[UserFixable | None], None]) -> None:
        self.plan: BenchPlan | None = None
        self.contents: Contents | None = None
        self.review: Review | None = None
        self.say_wrong = say_wrong

    def take(self, contents: Contents, review: Review, plan: BenchPlan | None) -> None:
        """Show a plan."""
        self.contents, self.review, self.plan = contents, review, plan

    def line(self) -> str:
        """What the plan comes to, in one sentence."""
        if self.contents is None or self.review is None:
            return ""
        if self.plan is None:
            return "The plan cannot be worked out: look at what is said below."
        return plan_line(self.contents, self.review, self.plan)

    def evidence(self) -> Parts:
        """The clock, what the order saves, whether the repeats are enough, what is given up."""
        plan, contents = self.plan, self.contents
        if plan is None or contents is None:
            return []
        table, order = plan.table, plan.order
        parts: Parts = [
            label("THE CLOCK", "heading"),
            figure_row("time", duration_text(order.minutes * 60)),
            figure_row("swaps", str(order.swaps)),
            figure_row("bench days", str(len(table.days))),
            figure_row("finishes", (table.finishes or "–").replace("T", " ")),
        ]
        if table.slack_days is not None:
            days = count_text(abs(table.slack_days), "day")
            parts.append(
                figure_row("before the deadline", days)
                if table.slack_days >= 0
                else label(f"Finishes {days} after the deadline.", "error")
            )
        parts += [10, label("AGAINST OTHER ORDERS", "heading")]
        parts.append(label(saved_words(plan), "quiet"))
        parts += [10, label("ENOUGH REPEATS", "heading"), label(enough_line(contents, plan))]
        if plan.learned_titles:
            learned = count_text(len(plan.learned_titles), "title")
            parts.append(label(f"Times of {learned} are as measured.", "small"))
        whys = list(dict.fromkeys(one.why for one in plan.dropped))
        if whys:
            parts += [10, label("GIVEN UP", "heading")]
            parts += [label(why, "quiet") for why in whys]
            if not plan.optimal:
                share = percent_text(plan.of_best)
                words = f"Near the best: {share} or more of what any choice could answer."
                parts.append(label(words, "caution"))
        return parts
