"""One room of the API: what all its operations have in common."""

from fastapi import APIRouter

from sapolin.api.errors import ErrorBody

__all__ = ["room"]


def room(prefix: str, tag: str) -> APIRouter:
    """A router whose operations lie below `prefix` and are listed under `tag`. They are named by their functions and can answer
    with an error. All that is known of them when it is made: an application takes its routes over as they are, where including
    a router would make each of them a second time, most of a second at the first request.
    """
    return APIRouter(
        prefix=prefix,
        tags=[tag],
        responses={"4XX": {"model": ErrorBody, "description": "What is wrong, where, and what to do."}},
        generate_unique_id_function=lambda route: route.name,
    )
