"""Why a figure is not known, or only in part: reasons as values, each with its sentence, said once.

A reason is compared by what it is (`figure.reason.why is Why.NOT_READ`), never by its words. As text it is its
sentence in English, with its numbers written as they stand; pages may say it otherwise (`web/components/reasons.py`).
"""

from __future__ import annotations

from enum import StrEnum


class Why(StrEnum):
    """Every reason that the core gives; numbers in braces come with it."""

    NONE = ""
    NOT_KNOWN = "not known"
    EXACT_REPEATS = (
        "the repeats agree exactly and no step of the instrument is given: what a try hides is not known"
    )
    MEASURED_ONCE = "measured once: how much a squeeze varies is unknown"
    OTHER_LOAD = "loaded with {load:.2g} kg/m², the standard asks for {standard:g}"
    TOO_FEW_INTERVALS = "{intervals} usable intervals of ten minutes; a line needs at least 3"
    FEW_INTERVALS = "{intervals} intervals; the standard asks for {standard}"
    SAME_EXCESS = "all intervals have the same excess temperature"
    LOOSE_LINE = "r² is {r2:.2f}; the standard asks for {standard}"
    OUTSIDE_MEASURED = "50 K lies outside what was measured"
    LEANS_ON_GAP = "leans on a gap of {minutes:.3g} min without readings"
    ICE_MISSING = "{share:.0%} of the ice is missing: melted and left do not add up to the start"
    ICE_TOO_MUCH = "{share:.0%} of the ice is too much: melted and left do not add up to the start"
    BOX_NEGLECTED = "the box's own heat capacity is neglected"
    STILL_ON = "the test is still on"
    STILL_RISING = "still rising at the last reading"
    ALL_EQUAL = "all values are equal"
    FROM_EARLIER = "how much a try varies is taken from earlier challenges' repeats"
    FROM_BOTH = "from this class's repeats together with earlier challenges'"
    FROM_REPEATS = "from this class's repeats"
    JAR_NEGLECTED = "the jar's own heat capacity is neglected"
    BEST_TRIED = "best tried; more load was not tried"
    TO_COMMON_START = "brought to the common start"
    ONE_TRY_A_BOUND = "one of its tries is known only as a bound"
    COMPARED_WITH_ZERO = "compared with zero"
    NOT_READ = "no reading yet"
    NOT_JUDGED = "{name}: not judged yet"
    CRITERION_NOT_READ = "{name}: not read yet"
    BROKE_OFF_SO_FAR = "the test broke off at {minutes:.3g} min: hottest so far"
    BETWEEN_READINGS = "between two readings"
    NOT_FALLEN_THAT_FAR = "had not fallen that far when the readings stopped"
    RISE_NEEDS_TWO = "one reading; a rise needs two"
    ABOVE_AT_FIRST = "above the level at the first reading"
    NEVER_REACHED = "never reached while watched"
    READINGS_STOP = "readings stop before that time"
    ONLY_JUST_AT_LEVEL = "only just at the level when the readings stopped"
    NO_READINGS = "no readings"
    BARE_NOT_RUN = "the bare control was not run"
    STOPWATCH_ALONE = "a stopwatch alone does not tell"
    BARE_BELOW_TARGET = "the bare control did not reach the target"
    WATCHED_LESS_THAN_CONTROL = "watched for less time than the control took"
    NOT_STOPPED = "the clock was never stopped"
    BROKE_OFF = "the test broke off at {minutes:.3g} min"
    BEYOND_RIM = "the level is beyond the rim of the cup described"
    NO_CONTROL = "no control stood beside it"
    CONTROL_NOT_READ = "the control was not read"
    MORE_ICE_THAN_AT_START = "more ice is left than there was at the start"
    READ_AT_ZERO_ONLY = "read at time zero only"
    MORE_LOAD_NOT_TRIED = "more load was not tried"
    NOTHING_LIFTED = "nothing was lifted"
    WIND_NOT_MEASURED = "the wind was not measured"
    HELD_BY_HAND = "only hand-held attempts, which are not compared"
    TRACK_END_NOT_REACHED = "the end of the track was not reached"
    DID_NOT_MOVE = "it did not move"
    SLOWED_DOWN = "it slowed down before it stopped: the force needs a run to the end"
    RUN_NOT_TIMED = "the run was not timed"
    BETWEEN_CHECKS = "seen between two checks"
    NOT_REACHED = "not reached while watched"
    BROKE_OFF_BEFORE_EITHER = "the test broke off before it or the control got there"
    NO_CHECK = "no check yet"
    AT_FIRST_CHECK = "there at the first check"
    CONTROL_NOT_CHECKED = "no control was checked"
    NEITHER_GOT_THERE = "neither it nor the control got there while watched"
    WITH_BOX_HEAT = "with the heat that the box itself holds"
    NO_LIGHT_KNOWN = "no sun or lamp power is known for this run"
    STORE_EMPTY = "the store was empty"
    ONLY_BOUNDS = "known only as bounds"
    NO_REPEATS = "nothing was tried twice, so how much a try varies is not known: repeat one build at least, better all"
    FROM_BUILDS = "from the spread between builds"
    OTHER_DAYS = (
        "tested on different days, and nothing was tested unchanged on both: run one unchanged build again "
        "beside the new ones"
    )
    NOT_NOTED = "not read"
    MORE_OUT_THAN_IN = "more water out than in: water was left from before, or a misreading"
    LEAK_NEEDS_TWO = "one reading; a leak needs two"
    MORE_WATER_THAN_BEFORE = "there is more water than before: a misreading, or water was added"
    BELOW_MEASURE = "less than the measure can show"
    LESS_RAIN_THAN_USED = "less rain in the year than is used: no tank is large enough"
    END_OF_TRACK = "reached the end of the track"
    MORE_HEAT_THAN_LIGHT = "more heat than light came in: window area, sun or load is entered wrongly"
    SEEN_GOING_BACK = "seen to go back; the first sight counts"
    TOO_FEW_TIMES = "{times} different times; a curve needs at least {least}"
    NO_CHANGE = "the readings do not change"
    CHANGE_UNDER_STEPS = "the change ({change:.3g}) is under three steps of the instrument"
    NO_SPARE_READINGS = "as many unknowns as readings; the fit cannot be checked"
    RUN_TOO_SHORT = "the run is too short against the time constant to tell where it levels off"
    CHANGE_TOO_QUICK = "the change came too quickly between two readings to tell how quickly"
    ALL_MELTED = "all had melted before it was read"
    NOTHING_MELTED = "nothing has melted yet"
    NO_FIT = "no fit"
    OTHER_START = "started at {start:g} °C, not {common:g} °C: not comparable"
    MORE_MELTED_THAN_ICE = "more meltwater than there was ice: a mass or the cup is entered wrongly"
    AIR_NOT_ABOVE_ZERO = "the air was not above 0 °C, so nothing drives heat into the ice"
    TARGET_NOT_REACHED = "target not reached while watched"
    SOURCE_BELOW_TARGET = "the source is not hotter than the target"
    START_ABOVE_TARGET = "the start is not below the target"
    BARE_HARDLY_ROSE = "the bare control hardly rose: check the pad and the probe"
    AT_TARGET_FROM_START = "at the target from the start: the probe was warm"
    TRIES_DISAGREE = "lifted {lifted:g} but not {failed:g}: the tries disagree"
    ALL_LIFTED = "all that there is was lifted"
    LIMIT_BETWEEN = "the limit lies in between"
    ABOVE_BETZ = (
        "more power than any rotor can take from this wind: the wind was read away from the hub, or the height "
        "or the time is wrong"
    )
    LOAD_NOT_TRIED = "the set load of {load:g} was not tried"
    LOAD_NOT_LIFTED = "the set load of {load:g} was not lifted all the way"
    FROM_OWN_START = "measured {seconds:.1f} s from its own start; brought to the common one"
    NO_ATTEMPT = "no attempt yet"
    RISE_NOT_TIMED = "the rise was not timed"
    RATE_NEEDS_MORE = "{readings} readings; the first rate needs {least}"
    STILL_ABOVE = "still above at the last reading"
    AREA_NEEDS_TWO = "one reading; an area needs two"

    @property
    def why(self) -> Why:
        return self


class Reason(str):
    """A reason with its numbers."""

    __slots__ = ("numbers", "why")
    why: Why
    numbers: dict[str, float | str]

    def __new__(cls, why: Why, **numbers: float | str) -> Reason:
        made = super().__new__(cls, why.value.format(**numbers))
        made.why, made.numbers = why, numbers
        return made


Because = Why | Reason


def because(why: Why, **numbers: float | str) -> Reason:
    """A reason with the numbers that it has in braces."""
    return Reason(why, **numbers)
