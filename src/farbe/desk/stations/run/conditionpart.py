"""What is known of the job's printer."""

from __future__ import annotations

from farbe.desk.conditions.window import figures_of, open_conditions
from farbe.desk.stations.part import Part
from farbe.plan.sentence import condition_words
from farbe.said import begun, say, spoken


class ConditionPart(Part):
    """The condition that the job takes by itself, and the way to the others."""

    NAME = say("Conditions")

    def build(self) -> None:
        self._words = self.form.words()
        self._words.setAccessibleName(say("Condition"))
        button = self.form.button(
            say("Conditions of the printer…"),
            lambda: open_conditions(self.desk, self.form),
            say("What it was measured to do, and how it is taught"),
        )
        button.setAccessibleName(say("Conditions"))

    def refresh(self) -> None:
        job = self.session.first
        if job is None:
            return
        condition = job.condition
        self.thing.say(condition_words(job))
        if condition is None:
            self._words.setText(
                say("Nobody has measured the printer in this mode, with these inks, on such a "
                    "surface: colours, white and limits are guesses.")
            )  # fmt: skip
            return
        name = begun(spoken(condition.name))
        self._words.setText("\n".join([name, *figures_of(condition)]))
