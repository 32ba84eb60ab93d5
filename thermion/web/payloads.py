"""What crosses the border of the web, typed once: JSON in and out, numbers of rows in forms."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, TypeVar

from flask import Response, redirect, request
from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, ValidationError
from werkzeug.exceptions import UnsupportedMediaType
from werkzeug.wrappers import Response as BaseResponse

from thermion.core.planning.week import step_now
from thermion.records.errors import Refused

MOST_JSON = 512 * 1024  # bytes; a plan of forty parts has 4 kB
MOST_ID = 2**63 - 1  # the largest number a row can have


def _aware(moment: datetime) -> datetime:
    return moment if moment.tzinfo else moment.replace(tzinfo=UTC)


StepKey = Annotated[str, AfterValidator(step_now)]  # open pages say what a step was called before
RowId = Annotated[int, Field(ge=0, le=MOST_ID)]
Moment = Annotated[datetime, AfterValidator(_aware)]
ClientId = Annotated[str, StringConstraints(min_length=1, max_length=64)]
Typed = Annotated[str, AfterValidator(lambda text: text[:40])]


class Sent(BaseModel):
    """What a script of ours sends."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False, defer_build=True)


class Answer(BaseModel):
    """What a script of ours gets."""

    model_config = ConfigDict(frozen=True, defer_build=True)


class WayShown(Answer):
    """What can be done about it: sent again with this change."""

    label: str
    change: dict[str, str | bool]


class Trouble(Answer):
    """Why something was not done: in words, at which field, with the likely value or a question."""

    error: str = ""
    field: str | None = None
    suggestion: str = ""
    ask: str = ""
    ways: list[WayShown] = []


S = TypeVar("S", bound=Sent)


def sent(model: type[S]) -> S:
    """The JSON body as this model; Refused, naming what could not be understood."""
    if not request.is_json:
        raise UnsupportedMediaType
    request.max_content_length = MOST_JSON
    try:
        return model.model_validate_json(request.get_data())
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        what = f"{where}: {first['msg']}" if where else str(first["msg"])
        raise Refused(f"This could not be understood ({what}).", where or None) from None


def answer(content: Answer, status: int = 200) -> Response:
    """A model as JSON."""
    return Response(content.model_dump_json(), status, mimetype="application/json")


def kept_by_device() -> bool:
    """Was this sent by a device's outbox, which keeps it until it has an answer in JSON?"""
    return "X-House" in request.headers


class Led(Answer):
    """Where a form's sending led."""

    to: str


def led(to: str) -> BaseResponse:
    """The way on after a form: a redirect, or its address for a device's outbox."""
    return answer(Led(to=to)) if kept_by_device() else redirect(to, 303)


def own_address(text: str, default: str) -> str:
    """An address of ours that was sent along, else `default`: never a way to anywhere else."""
    ours = text.startswith("/") and text[1:2] not in ("/", "\\") and text.isprintable()
    return text if ours else default


def row_id(text: str | None) -> int:
    """The number of a row as sent in a form or an address; 0, which is nothing's number, if it is none."""
    try:
        number = int(text or 0)
    except ValueError:
        return 0
    return number if 0 <= number <= MOST_ID else 0


def form_id(name: str) -> int:
    return row_id(request.form.get(name))


def form_ids(name: str) -> list[int]:
    return [row_id(text) for text in request.form.getlist(name)]
