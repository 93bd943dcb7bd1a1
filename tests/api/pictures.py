"""Pictures as a telephone takes them: large, lying on their side, and saying where they were taken."""

from io import BytesIO

from PIL import ExifTags, Image


def taken(
    width: int = 60, height: int = 40, kind: str = "PNG", *, place: bool = False, sideways: bool = False
) -> bytes:
    """A picture, red on its left half, blue on its right."""
    picture = Image.new("RGB", (width, height), "red")
    picture.paste((0, 0, 255), (width // 2, 0, width, height))
    notes = Image.Exif()
    if place:
        notes[ExifTags.Base.GPSInfo] = {ExifTags.GPS.GPSLatitude: (47.0, 30.0, 0.0), ExifTags.GPS.GPSLatitudeRef: "N"}
        notes[ExifTags.Base.Make] = "a telephone"
    if sideways:
        notes[ExifTags.Base.Orientation] = 6
    out = BytesIO()
    picture.save(out, kind, exif=notes)
    return out.getvalue()


def kept(content: bytes) -> Image.Image:
    """A picture as it came back."""
    return Image.open(BytesIO(content))
