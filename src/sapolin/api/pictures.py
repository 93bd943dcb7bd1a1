"""Pictures sent to be kept: scaled down, turned upright, and drawn anew, so that nothing stays of where and with what they were
taken."""

from io import BytesIO
from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import AfterValidator
from starlette.concurrency import run_in_threadpool

from sapolin.api.clean_text import without_hidden_signs
from sapolin.api.errors import Refusal

__all__ = ["PictureName", "picture_answer", "picture_of"]

PictureName = Annotated[str, Query(max_length=120), AfterValidator(without_hidden_signs)]

PICTURES = {"image/jpeg": "JPEG", "image/png": "PNG", "image/webp": "WEBP"}
"""What may be sent."""
MOST_SIDE_PX = 2000
"""Enough to see a crack, or print a page."""
MOST_PIXELS = 100_000_000
QUALITY = 85
SMALL_SIDE_PX = 360
"""Of a picture in a row of pictures: sharp at twice the size it is shown."""


def redrawn(content: bytes, media_type: str) -> bytes:
    """A picture as it is kept: a JPEG of at most 2000 px a side. Raises Refusal when it is no picture of that type."""
    from PIL import Image, ImageOps, UnidentifiedImageError  # read when the first picture comes, not at every start

    try:
        with Image.open(BytesIO(content), formats=(PICTURES[media_type],)) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise Refusal(422, "too_large", "This picture has more than 100 million points. Take a smaller one.")
            upright = ImageOps.exif_transpose(picture)
            upright.thumbnail((MOST_SIDE_PX, MOST_SIDE_PX))
            # What shows through is white, as on paper.
            flat = Image.new("RGB", upright.size, "white")
            layers = upright.convert("RGBA")
            flat.paste(layers, mask=layers)
    except (KeyError, UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        message = "Only whole JPEG, PNG and WebP pictures can be added."
        raise Refusal(422, "not_a_picture", message) from error
    out = BytesIO()
    flat.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def small(content: bytes) -> bytes:
    """A kept picture as it is shown in a row: a JPEG of at most 360 px a side. What cannot be read as one stays as it is."""
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(BytesIO(content)) as picture:
            picture.draft("RGB", (SMALL_SIDE_PX, SMALL_SIDE_PX))
            shown = picture.convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return content
    shown.thumbnail((SMALL_SIDE_PX, SMALL_SIDE_PX))
    out = BytesIO()
    shown.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def picture_answer(content: bytes, media_type: str, *, is_small: bool) -> Response:
    """A kept picture; it never changes, so the browser keeps it."""
    if is_small:
        content, media_type = small(content), "image/jpeg"
    return Response(content, media_type=media_type, headers={"cache-control": "private, max-age=31536000, immutable"})


async def picture_of(request: Request) -> tuple[str, bytes]:
    """Media type and content of a picture sent as the body, as it is kept. Raises Refusal when it is none."""
    media_type = request.headers.get("content-type", "").partition(";")[0].strip().lower()
    return "image/jpeg", await run_in_threadpool(redrawn, await request.body(), media_type)
