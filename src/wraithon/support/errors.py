"""The one small tree of errors a user may meet. Each text says what, where and what to do."""


class WraithonError(Exception):
    """Something the user can act on; its text is shown as it stands, never with a traceback."""


class ProjectError(WraithonError):
    """A project folder or file cannot be read or written."""


class CharacterError(WraithonError):
    """A character file is broken, unsupported or missing."""


class NoMeshError(CharacterError):
    """A character file holds nothing that could be drawn; it may be meant for its motions."""


class RenderError(WraithonError):
    """A picture cannot be made or written."""


class Stopped(Exception):  # noqa: N818  # nothing went wrong
    """Raised by what is told of progress, to end work that is no longer wanted."""
