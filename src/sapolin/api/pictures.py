"""Pictures sent to be kept."""

from fastapi import Request

from sapolin.api.errors import Refusal

__all__ = ["picture_of"]

PICTURES = {"image/jpeg": b"\xff\xd8", "image/png": b"\x89PNG", "image/webp": b"RIFF"}
"""What may be kept, and how its bytes begin."""


async def picture_of(request: Request) -> tuple[str, bytes]:
    """Media type and content of a picture sent as the body. Raises Refusal when it is none."""
    media_type = request.headers.get("content-type", "").partition(";")[0].strip().lower()
    content = await request.body()
    if media_type not in PICTURES or not content.startswith(PICTURES[media_type]):
        raise Refusal(422, "not_a_picture", "Only JPEG, PNG and WebP pictures can be added.")
    return media_type, content
