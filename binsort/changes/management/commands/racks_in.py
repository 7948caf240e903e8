"""Makes a facet file the draft."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from binsort.changes.setup_files import Trial, bring_setup_in, set_master, try_setup
from binsort.core.facets.facet_file import FacetFileError


class Command(BaseCommand):
    help = "Make a facet file the draft, all of it or nothing; the same twice changes nothing. Shoppers see it once it is put live."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--trial", action="store_true", help="only say what it would change")
        master = parser.add_mutually_exclusive_group()
        master.add_argument("--master", metavar="WHERE", help="the file is the master from now on, and kept there; pages lead to it")
        master.add_argument("--no-master", action="store_true", help="the pages are the master again")

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["file"]
        try:
            text = path.read_bytes()
            trial = try_setup(text)
            self._tell(trial)
            if options["trial"]:
                return
            done = bring_setup_in(text, name=path.name, actor=None)
            if options["master"] or options["no_master"]:
                set_master(options["master"] or "", actor=None)
        except OSError as error:
            raise CommandError(f"{path} cannot be read: {error.strerror}. Check its name and rights.") from error
        except FacetFileError as error:
            raise CommandError("\n".join([f"{path} was not brought in:", *(problem.text for problem in error.problems)])) from error
        except ValueError as error:
            raise CommandError(str(error)) from error
        self.stdout.write("Brought into the draft." if done else "Nothing changed.")

    def _tell(self, trial: Trial) -> None:
        for one in trial.differences:
            label = (one.after or one.before or {"label": one.key})["label"]
            self.stdout.write(f"{one.kind} {label}: {one.words}")
        if not trial.differences:
            self.stdout.write("No difference." if trial.changes_nothing else "Only the writing differs.")
