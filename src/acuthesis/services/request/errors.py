"""Errors of use cases beside the core's: not allowed, too many tries, changed by somebody else."""

from acuthesis.core.errors import CoreError


class SignedOut(CoreError):
    """Nobody is signed in, or the password is wrong."""

    code = "signed_out"


class SecondFactorNeeded(CoreError):
    """The password is right; the code from the second factor is missing."""

    code = "second_factor"


class CodesStopped(CoreError):
    """There were too many wrong codes: the authenticator's no longer count."""

    code = "codes_stopped"


class TooManyTries(CoreError):
    """Tries have to wait."""

    code = "too_many_tries"


class Forbidden(CoreError):
    """Signed in, but this is not among what this role may do."""

    code = "forbidden"


class ReasonNeeded(CoreError):
    """The practice lets practitioners read the records of people they treat; anybody else's ask for a reason."""

    code = "reason_needed"


class Covered(CoreError):
    """The screen is locked: the session reads and writes nothing until it is unlocked."""

    code = "covered"


class MustEnrol(Forbidden):
    """The practice asks for a second factor, and this account has none yet."""

    code = "must_enrol"


class LinkSpent(CoreError):
    """A one-time link that was used, has expired, was withdrawn, or never was."""

    code = "link_spent"


class SayEnded(CoreError):
    """The person's own screen has ended, or a code for it was used, has expired, or never was."""

    code = "say_ended"


class DiaryEnded(CoreError):
    """A diary that has ended, or a link to one that was used, has expired, or never was."""

    code = "diary_ended"
