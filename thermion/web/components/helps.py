"""What to do on a page and why, behind its question mark; and the keys that work there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Help:
    """A page's help: at most 60 words, and (key, what it does) of its shortcuts."""

    text: str
    keys: tuple[tuple[str, str], ...] = ()


MARKS = (
    ("Enter", "keeps the reading and goes on"),
    ("↑ ↓ ← →", "move"),
    ("C", "takes the correction"),
    ("K", "keeps what was typed"),
    ("B", "keeps both"),
    ("T", "time and earlier values"),
    ("Esc", "back to the round"),
)
STAGES = (("0 – 4", "what it looks like now"), ("↑ ↓ ← →", "move"), ("Esc", "back to the round"))
TURNS = (("Enter", "keeps the turn; the next team is on"), ("0", "nothing happened"))
RACES = (("Enter", "keeps what the probe shows, or starts"), ("Space", "stops at the target"))

# By the page's name, with a dot and the part of the brief or how the test is held where these differ.
HELPS: Mapping[str, Help] = {
    "home.index": Help(
        "Each line is a challenge and how far it is. The key at its right is the one thing to do next. A class "
        "that is done for the year can be put away under Teams and units; what was deleted comes back under Data."
    ),
    "home.edit_class": Help(
        "Write the teams in the order in which they stand in the room: readings are taken in that order. Letter, "
        "shape and colour fill themselves in, so that a team is told apart on a pale projector too. People are "
        "never named."
    ),
    "home.new_challenge": Help(
        "Choose what the class will build. The brief is filled in with what usually works for that family and "
        "age, and every part of it can be changed before the first plan."
    ),
    "brief.section.task": Help(
        "Say in a sentence what is to be achieved, and what is held the same for all. A test is fair when only "
        "the designs differ."
    ),
    "brief.section.rig": Help(
        "What all builds share is set here and printed on the sheets. Set it as your room has it: limits, "
        "questions about odd values and the simulation all go by these numbers."
    ),
    "brief.section.marks": Help(
        "Point at the ruler where readings are taken, or type the minutes. Early marks show how fast it goes, "
        "late ones how far. More readings than hands can take make late ones."
    ),
    "brief.section.materials": Help(
        "Choose what is on offer, what a unit of it costs and how much a team may take. Scarce and costly things "
        "make teams choose, and choosing is the design."
    ),
    "brief.section.rungs": Help(
        "Some teams need an easier or a harder one: more or fewer of each material, one aim more, words of "
        "another age. The test stays the same for all. Sheets, plans and the check follow."
    ),
    "brief.section.score": Help(
        "Choose what wins before anybody builds: teams design for the rule. The preview shows what it would say "
        "about builds that are hot, thrifty or quick."
    ),
    "brief.section.safety": Help(
        "These cautions follow from the tools and materials on offer and the age. Read them aloud before the "
        "store opens, and tick that you did."
    ),
    "lessons.index": Help(
        "Steps lie in your lessons in order. Drag one, stretch it, or drop it; red does not fit before the bell. "
        "Below stands what would make it fit, each with what it saves."
    ),
    "hours.timetable": Help(
        "Entered once, the hours of the week are offered wherever a lesson is added, holidays left out. A lesson "
        "can still be put anywhere."
    ),
    "kit.index": Help("What must be there, with spares, for all teams. Tick what you have; print the rest."),
    "kit.week": Help(
        "What must be there for all challenges of the class together; shared things count once."
    ),
    "sun.index": Help(
        "Where the sun stands over your school in your lessons, and how strong it can be. Choose the lesson in "
        "which boxes get most of it."
    ),
    "tryout.index": Help(
        "Made-up designs inside your limits are tested by simulation. If all score alike, the class cannot learn "
        "from comparing: change limits, marks or rule."
    ),
    "builds.index": Help(
        "Each team's newest plan. Amber waits for you: look, ask, sign. A signed plan can be handed out from the "
        "store; an issued one is part of the record."
    ),
    "builds.version.check": Help(
        "Look at drawing and list: can it be built, and is it tested by what it is? Ask rather than tell: point at "
        "a question to send it back. Signed plans wait in the store with all that goes out in one list.",
        (
            ("S", "signs off"),
            ("B", "a question, Enter sends it back"),
            ("N", "next plan"),
            ("A", "signs all in order"),
        ),
    ),
    "builds.version.draft": Help(
        "Drag the drawing or the sliders; choose materials place by place. What breaks a limit is said at its "
        "row. A prediction and one sentence on what changes make the test worth watching."
    ),
    "understanding.index": Help(
        "While you walk round: choose the step, tap a team's number when you have seen it, once more for not yet. "
        "Plan and prediction are one tap away. What your school looks for can be added."
    ),
    "store.index": Help(
        "What is there is what was counted, minus what went out. Plans that are signed wait at the side: one key "
        "hands out what is new in them."
    ),
    "ideas.index": Help(
        "Each learner first thinks alone: one or two ideas, without a name. Draw them here, or on the printed "
        "half-sheets and photograph those. Then the team looks at them side by side."
    ),
    "ideas.of_team": Help(
        "Take one idea whole, or tick parts of several; they go into the team's plan, which remembers which "
        "idea each part came from. Photographs can come many at once."
    ),
    "ideas.draw": Help(
        "Draw over the pale outline with finger, pen or mouse, choose what it is made of, and say why in one "
        "sentence. A material is enough, a drawing too."
    ),
    "ideas.walk": Help(
        "Press where a team's row meets the place it learned something at. The credit waits in that team's next "
        "version, and is read out at the end."
    ),
    "devices.index": Help(
        "Opened, the door lets in the devices of this room that have a code; each sees only what it is for. Tap a "
        "code for its square. Send away what should not be in; what is not sent yet stays on that device. The door "
        "closes by itself at the end of the day."
    ),
    "conduct.index": Help(
        "Each step has a clock and a sentence for the learners; both stand on the board. Start any step out of "
        "order, put one in, or go back. What a step took is kept, and is proposed the next time. Results are "
        "revealed from the last place up.",
        (("L", "the next step, on every page"), ("G", "where this challenge goes on")),
    ),
    "rig_check.index": Help(
        "Check before the first test: a lamp that leans or a glass that lies decides the race."
    ),
    "spreadsheet.bring": Help(
        "What was noted on paper and typed in a spreadsheet goes in at once: teams down and minutes across, the "
        "other way round, or a line for each try. Teams are known by name, letter or order."
    ),
    "spreadsheet.shown": Help(
        "So the table was read. What can be meant in two ways is asked; what cannot be taken is named with its "
        "cell. Nothing is stored before the key, and all of it can be taken back.",
        (("S", "stores it"),),
    ),
    "runs.index": Help(
        "Choose who is tested and note how it is now. Testing one build again unchanged tells how much a try "
        "varies: without it nobody can say how sure a place is."
    ),
    "runs.run.marks": Help(
        "The dark column is due. Read down the room in its order: digits and Enter. An odd value is asked about "
        "beside its cell and never stops the round; a missed one stays empty. Everything can be corrected, the "
        "first value is kept.",
        MARKS,
    ),
    "runs.run.stages": Help(
        "Look, and press what you see: one key a row. Two people should agree on the words first. A missed mark "
        "stays empty; everything can be corrected.",
        STAGES,
    ),
    "runs.run.turns": Help(
        "The team at the top is on. Point at the drawing or type, tick what was seen, Enter. Whoever had fewest "
        "turns comes next; an absent team can wait and come back.",
        TURNS,
    ),
    "runs.run.races": Help(
        "One probe, one race at a time, the bare one first. Start when all is in place; type what it shows on "
        "the way; stop at the target. A false start counts for nothing.",
        RACES,
    ),
    "findings.index": Help(
        "First what happened by your rule, then how sure it is, which is about the typical try. "
        "What would tell more, and what it costs, stands below."
    ),
    "life_size.index": Help(
        "Turn a number and see what a year would bring. Nothing is kept: the address of the page holds it all, "
        "so it can be sent on."
    ),
    "record.index": Help(
        "What leaves the room: sheets to print, tables, pictures, and the challenge as one file."
    ),
    "record.bring_in": Help(
        "A file that Thermion wrote comes in as a class of its own and changes nothing else."
    ),
    "data.index": Help(
        "Everything is one file. Copies are made each day and read back; put one back when something went badly "
        "wrong. What was deleted waits here for 30 days."
    ),
    "logger.file": Help(
        "A table that a logger wrote. What can be meant in two ways is asked once for each logger; then the file is "
        "laid along the test. Nothing is stored before that."
    ),
    "logger.shown": Help(
        "The file's curves over what the test has read: slide them by hand, with the arrow keys or by typing where "
        "the first reading falls. A file that was laid wrong is taken back here."
    ),
    "probes.index": Help(
        "A board or program that reads by itself gets a key of its own, shown once. It sends from this computer at "
        "any time, from others while you let them in."
    ),
    "probes.of_run": Help(
        "Say which probe is in which build. The first value after each mark is the mark's; a probe that falls silent, "
        "jumps or is still in a hand is said to be, and the cell waits for a reading by hand."
    ),
    "apart.index": Help(
        "Set aside what should not count, a whole run or part of a row, with a reason. It stays in the record, "
        "is shown, and can be taken in again."
    ),
}


def help_of(endpoint: str, section: str = "", shape: str = "", in_words: bool = False) -> Help | None:
    """The help of a page; `section` of a brief, the `shape` of its test, stages read `in_words`."""
    if endpoint == "runs.run":
        return HELPS.get(f"{endpoint}.{'stages' if in_words and shape == 'marks' else shape}")
    return HELPS.get(endpoint) or HELPS.get(f"{endpoint}.{section}")
