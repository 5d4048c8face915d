"""Subject: what the recipe treats apart is marked on its clip."""

from idle_shimmer.core.checks.base import Check, CheckContext, Finding
from idle_shimmer.core.frame.needs import missing_subjects


class Subject(Check):
    """The subjects that the recipe needs are marked."""

    id = "subject"
    title = "Subject"
    order = 35

    def run(self, context: CheckContext) -> Finding:
        """Return the number of clips whose subject is missing."""
        if context.without_subject is not None:
            return self.found("failed", 1, "clips", context.without_subject)
        if not missing_subjects(context.recipe, ()):
            return self.ok(0, "clips", "Treats no subject apart.")
        return self.ok(0, "clips", "Every subject that is needed is marked.")
