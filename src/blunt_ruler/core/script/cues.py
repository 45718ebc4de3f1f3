"""The words that say what a figure is of, who is meant, and how sure a sentence is.

Patterns alone; what they are used for is in `named` and `grammar`.
"""

import re
from typing import NamedTuple

MORE = (
    r"faster|quicker|speedier|higher|more|better|ahead|increases?|uplifts?|gain(?:s|ed|ing)?|"
    r"boosts?|improve(?:s|d|ments?)?|extra|lead(?:s|ing)?|advantage|jumps?|greater|on top|rises?|"
    r"wins?|up on|beat(?:s|ing)?|outperform(?:s|ed|ing)?|outpace[sd]?|outruns?|outran|"
    r"overtakes?|adds?|added|"
    r"bonus|plus|above|past|buys?|climb(?:s|ed|ing)?|soar(?:s|ed)?|shoot(?:s|ing)? up|"
    r"shot up|gr[eo]ws?|up(?! (?:at|to|from)\b)"
)
LESS = (
    r"slower|lower|less|fewer|behind|off(?= the| it| what|,|\.)|"
    r"worse|loss(?:es)?|los(?:es?|ing|t)|drop(?:s|ped|ping)?|"
    r"deficit|penalty|hit|short of|shy of|down(?: on)?|decreases?|fall(?:s|en|ing)?|fell|"
    r"costs?|costing|gives? up|gives? away|giving up|gave up|forfeit(?:s|ed)?|trail(?:s|ed|ing)?|"
    r"below|under|lag(?:s|ged|ging)?|takes?|took|taking|eats?|swallows?|sacrifices?|"
    r"missing|shortfall|reduc\w+|minus"
)
KEEP = (
    r"keeps?|kept|keeping|holds?|held|hangs? on to|retains?|retained|preserves?|maintains?|"
    r"delivers?|offers?"
)
SAME = (
    r"(?<!say )(?<!says )(?<!tell )the same\b(?!:)"
    r"(?! (?:story|picture|pattern|song|card|scene|game|title|settings?|preset|day|driver|way|"
    r"place|run|test|thing|time|as before))|no (?:real |measurable |noticeable |visible )?"
    r"difference(?! (?:which|what|who))|identical|"
    r"level with|on (?:a )?par|just as fast|(?<!times )as fast as|equal(?:s| to|ly fast)?|"
    r"makes? no (?:real )?difference(?! (?:which|what|who))|indistinguishable|neck and neck|"
    r"match(?:es)?\b|tied?\b(?! to)|"
    r"no (?:slower|faster)|level\b(?= in| at| across|,|\.|$)|(?:costs?|loses?|gains?) nothing"
)
AS = r"as (?:fast|quick|high|much|many|good)(?: as)?"
BREAK = re.compile(
    r"[;:]|[,\s]\s*(?:but|while|whereas|although|though|yet|however)\s|,\s+and\s|\s-\s"
)
AFTER = re.compile(
    rf"^[\s-]*(?:(?P<of>of)\b|"
    rf"(?:\w+[\s-]+){{0,2}}?(?:(?P<more>{MORE})|(?P<less>{LESS})|(?P<as>{AS}))\b)",
    re.I,
)
OF_SPEED = re.compile(
    r"^\s*of (?:\w+ ){0,2}?(?:speed|performance|frames?|frame rates?|fps|averages?|lows?|scores?|"
    r"what|that|those|results?|figures?)\b|^\s*of +(?:the |its |a )?(?:\s{3,}|\S+'s\b)",
    re.I,
)
CUE = re.compile(rf"\b(?:(?P<more>{MORE})|(?P<less>{LESS})|(?P<keep>{KEEP}))\b", re.I)
IS_LOST = re.compile(
    r"\b(?:is|are|was|were|gets?|goes|go|went|stay) (?:lost|missing|gone|left behind|"
    r"left on the table|away)\b|\bon the table\b",
    re.I,
)
OF_NO_RATE = re.compile(
    r"^\s*of (?:the )?(?:time|runs|people|titles|games|load|cases|tests|"
    r"what (?:i|we)|my|our|it|them)\b",
    re.I,
)
STRONG = (
    r"than|over|against|versus|vs\.?|compared (?:to|with)|relative to|next to|behind|"
    r"beats?|beating|tops|heads|"
    r"outperforms?|outpaces?|outruns?|outran|overtakes?|leads?|trails?|ahead of|"
    r"lags behind|lags|as|matches|level with|from|to|"
    r"short of|down on|up on|loses? to|on par with|identical to|equal to|equals|above|below"
)
MARK = re.compile(
    rf"(?:^|[\s,(])(?P<mark>{STRONG}|of|in|on|through|inside|via|with|for|by)\s+"
    r"(?:(?:what|that|those|the one)\s+(?:of\s+|in\s+|on\s+)?)?(?:(?:the|its|a|an|our|"
    r"my|their|your|two|three|four|five|every|all|"
    r"same|card|itself|speed|performance|average|frame rate|1% lows?|lows?|lead)\s+|"
    r"(?:of|in|on|with|over|through|inside|as|for|by|at)\s+)*$",
    re.I,
)
SHARE_OF = re.compile(
    r"(?:%|per ?cent|tenths?|quarters?|thirds?|fifths?|half)\s+of\s+(?:the |a |its )?$", re.I
)
WEAK = {"of", "in", "on", "through", "inside", "via", "with", "for", "by"}
PASSIVE = re.compile(r"\b(?:beaten|outperformed|outpaced|overtaken) by (?:the )?$", re.I)
PRONOUN = re.compile(r"\b(?:it|its|it's|they|their|that one|this one|the same card|both)\b", re.I)
NOT = re.compile(
    r"\b(?:not|isn't|aren't|wasn't|doesn't|don't|didn't|never|no|hardly|barely|neither|"
    r"nor|without|cannot|can't)\s+(?:\w+\s+){0,2}?$",
    re.I,
)
UNREAL = re.compile(
    r"\?\s*$|^\s*(?:if|suppose|imagine|is|are|does|do|did|was|were|can|could|would|"
    r"should|how|why|what|which)\b.*\?|"
    r"\b(?:out of|beyond|not within) reach\b|"
    r"\bnever (?:believed|thought)\b|\bdon't believe\b|\b(?:people|they|some|posts?|comments?) "
    r"(?:\w+ )?(?:say|said|claim|claimed)\b|\b(?:supposedly|allegedly|myth)\b|"
    r"\b(?:would(?! set (?:you|me) back)|could|might|should)\b|^\s*if\b.*\b(?:were|had)\b",
    re.I,
)
QUALITY = re.compile(
    rf"\b(?:(?P<faster>faster|quicker|speedier|beats?|outperforms?|outpaces?|ahead of|"
    rf"wins?\b(?= (?:against|over|everywhere|every|in (?:all|every|each)|across))|overtakes?|"
    rf"(?:higher|better) (?=1|lows?|averages?|scores?|frame)|(?:improve|gain)s?(?= on|"
    rf" over)|pulls? ahead|in front of|(?<=is )ahead|(?<=are )ahead|(?<=comes out )ahead)|"
    rf"(?P<slower>slower|trails?|loses? (?:to|against|out)|lags? behind|falls? behind|"
    rf"behind\b(?= the| it|,|\.|$)|"
    rf"(?:lower|worse) (?=1|lows?|averages?|scores?|frame))|"
    rf"(?P<level>{SAME}))",
    re.I,
)
LOWS_ARE = re.compile(
    r"\b(?:are|is|get|gets|were)\s+(?:much |far |clearly |slightly |a bit |"
    r"no )?(?:(?P<up>higher|better)|(?P<down>lower|worse))\b",
    re.I,
)
EVERY = re.compile(
    r"\b(?:always|everywhere|across the board|without exception|every time|"
    r"(?:in|over|for) (?:all|every|each)\b(?: of)?(?: the| our| my|"
    r" these)?(?: \w+)?(?: (?:games?|titles?|tests?|cases?))?|every single (?:game|"
    r"title))",
    re.I,
)
EVERY_GAME = re.compile(
    r"\b(?:every|each|all)\b(?: of)?(?: the| our| my| these)?(?: \w+)? (?:games?|titles?)\b|"
    r"\beverything(?= (?:here |else )?(?:runs?|ran|stays?|is|was|plays?|does|reaches|hits)\b)|"
    r"\beverywhere\b",
    re.I,
)
NO_ONE = re.compile(r"^\W*(?:nothing|nobody)\b", re.I)
REACHES = re.compile(
    r"\b(?:gets?|got|comes?|makes? it|made it|near) (?:anywhere )?(?:to|near)\s*$|"
    r"\b(?:reach(?:es|ed)?|hits?|manage[sd]?|breaks?|broke|sees?|saw)\s*$",
    re.I,
)
CHANGES_BY = re.compile(
    r"gain|add|los[et]|cost|gives? (?:up|away)|gave (?:up|away)|giving (?:up|away)|forfeit|"
    r"sacrific|short of|shy of|by\s*$",
    re.I,
)
NEVER = re.compile(
    r"\b(?:never|nowhere|not one of(?: the)?(?: games| titles)?|"
    r"not a single (?:game|title)|in (?:no|none)(?: of the)? (?:games?|titles?))\b",
    re.I,
)
MOST_OF = re.compile(r"\bin most\b(?: of)?(?: the)? ?(?:games?|titles?|tests?)?|\bmostly\b", re.I)
EXCEPT = re.compile(
    r"\b(?:except|apart from|other than|all but|bar|excluding|"
    r"but not)(?: for)?(?: in)?(?: the)?\s+$",
    re.I,
)
PLAYABLE = re.compile(
    r"(?<!from )\b(?P<no>unplayable|not playable|isn't playable|not smooth|a slideshow|slideshow|"
    r"never playable)\b|"
    r"(?<!from )\b(?P<yes>playable|smooth(?:ly)?|runs well|plays well)\b",
    re.I,
)
LIMITS = (
    ("link", r"link|cable|cord|bandwidth|tunnel|connection|lanes|slot|adapter|bus"),
    ("cpu", r"cpu|processor|host"),
    ("card", r"card|gpu|graphics card"),
    ("screen", r"screen path|picture path|panel"),
)  # fmt: skip
LIMIT_WORD = "|".join(f"(?P<{{0}}{name}>{words})" for name, words in LIMITS)
LIMIT = re.compile(
    rf"\b(?:(?:{LIMIT_WORD.format('a')})[ -](?:bound|limited|bottlenecked)\b|"
    rf"(?:{LIMIT_WORD.format('b')})\b[^.;]{{0,30}}?\b(?:is|was|are|being|becomes|"
    rf"remains|stays) (?:the |a )?(?:main |real )?(?:bottleneck|limit(?:ing factor)?|"
    rf"limits)\b|"
    rf"(?:bottleneck|limit|limiting factor) (?:is|was|"
    rf"remains) (?:the )?(?:[\w/.]+ ){{0,3}}?(?:{LIMIT_WORD.format('c')})\b|"
    rf"(?:limited|held back|bottlenecked) by (?:the |"
    rf"its )?(?:[\w/.]+ ){{0,3}}?(?:{LIMIT_WORD.format('d')})\b|"
    rf"(?:{LIMIT_WORD.format('e')}) (?:that |which |(?:is|was) what )?(?:really |still |mostly )?"
    r"(?:(?:limits|limited|bottlenecks|holds back|held back)\b (?!by\b|to\b)(?:the )?|"
    r"(?:holds|held) (?:[\w-]+ ){1,6}?back\b))",
    re.I,
)
MOST = re.compile(
    r"\b(?:the )?(?P<word>fastest|quickest|slowest|thirstiest|cheapest|quietest|lightest|"
    r"best value|"
    r"most expensive|loudest|heaviest|most efficient)\b"
    r"(?! (?:result|figure|score|number|rate|average|case|spot|scene|game|title)s?\b)",
    re.I,
)
_LOSSES = r"(?:loss|penalt|deficit|drop|hit)(?:y|ies|es|s)?"
_GAINS = r"(?:gain|uplift|improvement|boost)s?"
_ENDS = (
    r"(?:(?P<most{0}>biggest|largest|greatest|highest|worst|best)|"
    r"(?P<least{0}>smallest|lowest|least))"
)
# “The loss is biggest in Tidewrack”, “the smallest gain is in Skitter”.
EXTREME_IN = re.compile(
    rf"\b(?:(?P<less1>{_LOSSES})|(?P<more1>{_GAINS})) (?:is|are|was|were) "
    rf"(?:the |by far |clearly |also )*{_ENDS.format(1)} (?=(?:in|with)\b)|"
    rf"\b{_ENDS.format(2)}(?: \w+)? (?:(?P<less2>{_LOSSES})|(?P<more2>{_GAINS})) "
    r"(?:(?:is|are|was|were|comes?|shows?(?: up)?) )?(?=(?:in|with)\b)",
    re.I,
)
AND_EXTREME = re.compile(rf"\band (?:the )?{_ENDS.format(3)} (?=(?:in|with)\b)", re.I)
COSTS = re.compile(
    r"\b(?:costs?|takes?|took|eats?|swallows?|is responsible for|accounts? for|"
    r"because of|due to|to the|(?<!them )(?<!it )(?<!that )(?<!this )down to)\b",
    re.I,
)
ALL_SIZES = re.compile(
    r"\b(?:all|its|every|the|both)(?: of)?(?: its| the)?(?: \w+)? (?:resolutions?|sizes)\b", re.I
)
_THAT = r"(?:that|this|which)(?:'s| is| was| makes| means)\b"
THAT_IS = re.compile(rf"^\W*(?:so |and |or )?{_THAT}", re.I)
OF_THAT = re.compile(rf"\b{_THAT}", re.I)
# “Going to 1440p takes a third off”: one size against another, which nothing here is held to.
BETWEEN_SIZES = re.compile(
    r"\b(?:going|goes|go|moving|stepping|dropping|switching|jumping|turning|cranking)"
    r"(?: it| up| down| back| on)* (?:to|from) $",
    re.I,
)
ONE_BY_ORDER = re.compile(
    r"\bthe (?:first|second|third|last|middle)(?: one| two| of (?:them|these|those))\b|"
    r"\bthe (?:former|latter)\b|\bthe (?:first|second|third) (?:is|was|gains?|loses?|gets?|of)\b",
    re.I,
)
BARE_NUMBERS = re.compile(r"[\W\d]*(?:(?:then|and|now|or|only|just)[\W\d]+)*", re.I)
THAT_FIGURE = re.compile(r"\b(?:that|this|the same) (?:figure|number|value)\b", re.I)
A_TOUCH = re.compile(
    r"\b(?:an?|one|two|a few|a couple of|half a) (?:single )?"
    r"(?:frames?|hair|touch|whisker|tad)\s*$",
    re.I,
)
THE_REST = re.compile(
    r"\b(?:everything|everyone|anything|nothing|every other (?:game|title)) "
    r"(?:else|better|worse|faster|slower)\b|"
    r"\b(?:all|every) (?:the )?others?\b|\bthe rest\b|\belsewhere\b|"
    r"\b(?:best|worst|fastest|slowest) (?:docks?|machine|links?|rigs?|box(?:es)?|setups?|one)\b",
    re.I,
)
SO_IT_IS = re.compile(  # “from 55 to 190, that's five times”: of the figures before it
    r"\d[^.]*,\s*(?:so )?(?:that's|that is|which is)\s*(?:about |nearly |almost )?$", re.I
)
SOME_GAMES = re.compile(
    r"\b(?:in|for) (?:the|those|all|any) (?:games?|titles?|ones) (?:that|which|where|with)\b", re.I
)
TAKEN_OFF = re.compile(r"\s*(?:off|away|out of)\b", re.I)
THAT_NUMBER = re.compile(r"\b(?:that|the) (?:number|figure|percentage)\b[^,;]*$", re.I)
WITHIN = re.compile(r"\bwithin\s+(?:about\s+)?$", re.I)
THE_OTHERS = re.compile(
    r"\b(?:both |all )?(?:of )?(?P<whom>the (?:others\b|other (?:two|three|one|docks?|links?|rigs?)"
    r"(?: docks| links| rigs)?\b))(?!')",
    re.I,
)
PAIRED = re.compile(
    r"\s*(?:%|per ?cent|fps|frames?(?: per second)?|gone|lost|missing|less|more|faster|slower)?"
    r"\s*(?:on|with|over|through|for|via) (?:the |its |an? |my |our |both (?:of )?(?:the )?)?",
    re.I,
)
LABELLED = re.compile(r"\s*(?:fps|frames?|%|per ?cent|percent)? (?:the |its |our |my )?", re.I)
THAN_SO_MUCH = re.compile(r"\b(?:more|less|fewer) than\s*$", re.I)
ONE_OF_THEM = re.compile(r"\b(?:any|worst|best|slowest|fastest|one|some|most) of\b", re.I)
FIRM_MARK = re.compile(
    r"\b(?:compared (?:to|with)|than|against|versus) (?:at |the |our |my )*(?:\w+ )?$", re.I
)
AS_A_NAME = re.compile(
    r"\s+(?:links?|docks?|rigs?|box|setup|one)\s+(?:(?P<copula>is|are|was)\b|(?!of\b)\w+)", re.I
)
OR = re.compile(r"\bor (?:at least |just |about )?$", re.I)
BARELY = re.compile(r"\bbarely\s*$", re.I)
SET_AGAINST = re.compile(
    r"\b(?:against|instead of|versus|vs\.?|compared (?:to|with))\s+(?:about |around )?$", re.I
)
INSTEAD = re.compile(r"\b(?:instead of|rather than|not)\s*(?:the )?$", re.I)
OWN = re.compile(
    r"^\W*(?:and |but )?(?:the |my |our )?\w+(?:'s (?:is|are|was|were|does|reaches)\b|:)", re.I
)
ON_AVERAGE = re.compile(r"\bon average\b", re.I)
THE_TWO = re.compile(r"\bthe two\b", re.I)
EACH_OTHER = re.compile(r"\b(?:of )?(?:each other|one another)\b|\bapart\b", re.I)
NOTHING = re.compile(
    r"\b(?:nothing|nobody|no one|none|never|nowhere|not once|no (?:game|title|case)s?)\b", re.I
)
NONE_OF = re.compile(r"\b(?:none|neither|no one) of\b", re.I)
WITHOUT = re.compile(r"\bwithout\s+(?:the |a |any |it)?\s*$", re.I)
DETERMINERS = re.compile(r"\s*(?:(?:the|that|those|of|what|an?|our|my)\s+)*", re.I)
LEADS_OFF = re.compile(
    r"(?:^|[,;:.]\s*|\bfps\s+|\band\s+)\s*(?:over|on|through)\s+(?:the |that |its )?$", re.I
)
RIGHT_BEHIND = re.compile(r"\s*(?:with|for)\s+(?:the |its |an? |our )?", re.I)
OR_MORE = re.compile(r"\s*or (?:more|less|better|above|fewer|higher|lower)\b", re.I)
MORE_THAN = re.compile(r"\s*(?:more|less|fewer|cheaper|dearer|higher|lower)\b", re.I)
EXTREME = re.compile(
    r"\b(?:(?P<most>largest|biggest|highest|greatest)|(?P<least>smallest|lowest|least))\b"
    r"[^,.;%]*$",
    re.I,
)
WORST_CASE = re.compile(
    r"\b(?:(?P<worst>in the worst case|at (?:its |the |their )?worst)|"
    r"(?P<best>in the best case|at (?:its |the |their )?best))\b",
    re.I,
)
OF_SHARES = re.compile(  # “the dock loses 21”, after percentages
    r"\b(?:los(?:es|ing|t)|keep(?:s|ing)?|kept|gains?|gives? (?:up|away)|costs?|retains?)"
    r"(?: you| only| just| about| around| \w+ly)*\s*$",
    re.I,
)
BOTH = re.compile(r"\bboth\s+(?:the |an? )?$", re.I)
IN_SO_MANY = re.compile(r"\bin\s+(?:only |just |all )?$", re.I)
THOSE = re.compile(r"\b(?:those|these|that extra|the extra)\s*$", re.I)
AVERAGES = re.compile(r"\baverag(?:es?|ed|ing)\s*$", re.I)
OF_A_GAP = re.compile(r"^[^.,;]{0,30}\b(?:gap|deficit|difference|distance|loss)\b", re.I)
A_FRAME = re.compile(r"^\s*(?:of )?an? frame\b", re.I)
PER_FRAME = re.compile(r"\bper (?:\w+ )?frame\b|\bfor (?:every|each) (?:\w+ )?frame\b", re.I)
GAMES = re.compile(r"\b(?:games?|titles?)\b", re.I)
ASKED_FOR = re.compile(
    r"^\W*(?:prices?|costs?|money)\b|\b(?:costs?|priced? at|sells? for|sets? (?:you|me) back)\b",
    re.I,
)
GAP = re.compile(
    r"^\s*(?:fps |frames? (?:per second )?)?[\s-]*(?:(?:gap|difference|margin|deficit|advantage|"
    r"short|apart)\b|(?:lie |are |sit )?between\b|on (?:everything|everyone|the table)\b)",
    re.I,
)
FROM = re.compile(r"\bfrom\s+(?:about |around |just |only )?$", re.I)  # “takes it from 28”
FALLS = re.compile(r"\b(?:fall|falls|fell|drop|drops|dropped|sink|sinks|sank|slide|slides|slid|"
                   r"slip|slips|slipped|goes down|go down|down) from\b[^,;.]*$", re.I)  # fmt: skip
TO_OTHER = re.compile(
    r"\s*(?:fps |frames )?(?:to|against|versus|vs\.?|instead of)\s+(?:the )?", re.I
)
RIGHT_BEFORE = re.compile(r"\s*[,:(–—-]?\s*(?:at |with |by )?(?:about |around )?", re.I)
PART_OF_THAT = re.compile(
    r"\W*(?:(?:and|but|so|about|roughly|nearly|over|under|more than|less than|only) )*"
    r"(?:half|most|an? \w+|\w+ (?:thirds|quarters)) of (?:that|this|it)\b",
    re.I,
)
OF_RIG = re.compile(r"\s*of (?:the |its |a )?", re.I)
DOES = re.compile(
    r"\s+(?:is|are|was|were|has|keeps?|loses?|gains?|gives?|gets?|does|runs?|makes?|reaches|manages|"
    r"delivers?|comes?|sits?|stands?|costs?|draws?|needs?|beats?|trails?|leads?)\b",
    re.I,
)
THEY_ARE = re.compile(r"\b(?:they|these|those)\b(?:'re|'ve)?", re.I)
TO_END = re.compile(r"\bto\s+(?:(?:about|around|just|only|under|over|nearly|almost)\s+)?$", re.I)
CARRIES = re.compile(r"\b(?:moves?|carr(?:y|ies)|transfers?|transports?)\b[^,;.]{0,20}$", re.I)


class OtherMeasure(NamedTuple):
    """A measure beside frames, and what tells that a share is of it."""

    key: str
    says: re.Pattern[str]  # right behind the figure: “cheaper”
    verb: re.Pattern[str]  # before it, with `much` behind it: “draws twice as much”
    much: re.Pattern[str]
    part: re.Pattern[str]  # behind it: “40 per cent of its price”


_AS_MUCH = r"\s*(?:as much\b|more than\b|(?P<less>less than\b)"
# “Draws a quarter of what” are watts; “costs a quarter of what” is a loss.
_OR_OF_WHAT = re.compile(_AS_MUCH + r"|of (?:what|that)\b)", re.I)
OTHER_MEASURES = (
    OtherMeasure(
        "cost",
        re.compile(
            r"\s*(?:more expensive|dearer|pricier|costlier|(?P<less>cheaper|less expensive))\b",
            re.I,
        ),
        re.compile(r"\b(?:costs?|is priced)\b[^,;.]{0,20}$", re.I),
        re.compile(_AS_MUCH + ")", re.I),
        re.compile(r"\s*of [\w' ]{0,20}?(?:price|cost|money)\b", re.I),
    ),
    OtherMeasure(
        "load_w",
        re.compile(
            r"\s*(?:more|higher|(?P<less>less|lower)) "
            r"(?:power|energy|watts|electricity|from the wall)\b",
            re.I,
        ),
        re.compile(r"\b(?:draws?|pulls?|consumes?|guzzles?)\b[^,;.]{0,20}$", re.I),
        _OR_OF_WHAT,
        re.compile(r"\s*of [\w' ]{0,20}?(?:power|watts|energy)\b", re.I),
    ),
    OtherMeasure(
        "weight_kg",
        re.compile(r"\s*(?:heavier|(?P<less>lighter))\b", re.I),
        re.compile(r"\bweighs?\b[^,;.]{0,20}$", re.I),
        _OR_OF_WHAT,
        re.compile(r"\s*of [\w' ]{0,20}?weight\b", re.I),
    ),
)
NO_MEASURE = re.compile(
    r"\s*(?:the )?(?:more|less|higher|lower|fewer|better|worse)?\s*(?:louder|quieter|cooler|"
        r"hotter|warmer|longer|shorter|bigger|larger|smaller|wider|narrower|"
    r"memory|vram|bandwidth|noise|heat|temperature|likely|space|room|card\b|cores|lanes|"
        r"money|interest|asked)\b", re.I)  # fmt: skip
MOVES = re.compile(
    r"\b(?:going|go|goes|moving|move|moves|switching|switch|stepping|step|upgrading|"
    r"upgrade|coming|jump|jumping|changing|change)"
                    r"(?: up)?(?: from)?\s+(?:the |its |an? |our )?$", re.I)  # fmt: skip
TO_RIG = re.compile(r"\s*(?:up )?to\s+(?:the |its |an? |our )?", re.I)
OVER_SO_MANY = re.compile(r"\b(?:over|across|of|from)\s+(?:the |these |our )?$", re.I)
NOUNS = re.compile(
    r"\b(?:(?P<less>loss|penalty|deficit|shortfall|gap|drop|cost)|(?P<more>gain|lead|"
    r"advantage|uplift|boost))\b",
    re.I,
)
DIFFERENCE = re.compile(r"\b(?:difference|gap)\b[^.,;]*$|^[^.,;]{0,12}\b(?:difference|gap)\b", re.I)
LEADS = re.compile(
    r"\b(?:you|me|us|see|sees|saw|does|do|did|reach(?:es)?|runs? at|hits?|manage[sd]?|"
    r"averag\w+|get(?:s|ting)?|against|to|at|"
    r"it's|that's|they're|you're at|from|of|with|only|just|still|drops?|falls?|is|are|and|"
    r"gives?|scores?|makes?|than|shows?|has|have|"
    r"versus|vs\.?|low|lows|average)$", re.I)  # fmt: skip
HEDGED = re.compile(
    r"\b(?:about|around|only|just|the|an?|nearly|almost|over|under|still)\s*$", re.I
)
SO_MUCH = re.compile(r"[\s,:]*(?:(?:only|just|about|still|does|at|with|around|is|of)\s+)?", re.I)
NOUN = re.compile(
    r"\s*(?!there\b|here\b|on\b|in\b|at\b|against\b|and\b|with\b|for\b|versus\b|vs\b|"
        r"while\b|but\b|over\b|"
    r"to\b|from\b|or\b|as\b|now\b|of\b|average\b|avg\b|instead\b|when\b|after\b|"
        r"through\b|more\b|less\b|than\b)[a-z]",
    re.I)  # fmt: skip
LIST = re.compile(r"\s*(?:%|per ?cent|percent|fps|times)?\s*(?:,|,? and|&)\s*(?:the\s+)?", re.I)
NAMES_METRIC = re.compile(
    r"^[\s-]*(?:(?:on|in|of|as|the|an?|its|their|for|at|more|less|higher|lower|"
    r"times)[\s-]+){0,4}$",
                           re.I)  # fmt: skip
