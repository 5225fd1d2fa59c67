"""File answers: opened in the browser, or downloaded."""

from fastapi import Response


def file(content: bytes | str, kind: str, name: str, *, saved: bool = False) -> Response:
    """A file with its media type and name; `saved` where it is kept rather than looked at."""
    how = "attachment" if saved else "inline"
    return Response(content, media_type=kind, headers={"Content-Disposition": f'{how}; filename="{name}"'})
