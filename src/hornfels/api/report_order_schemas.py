"""Reports that come by themselves, as the API says it."""

from __future__ import annotations

from pydantic import BaseModel, Field

from hornfels.api.people_schemas import Reason
from hornfels.api.schemas import JobInfo, Strict
from hornfels.service.report_orders import ReportOrder, State


class CopyInfo(BaseModel):
    """The last report to one address, and what the mail server said."""

    to: str
    state: State
    told: str


class ReportOrderInfo(BaseModel):
    order: ReportOrder
    version: int
    trouble: str = Field(description="why nothing can be sent, empty if nothing is wrong")
    due: str | None = Field(description="when the last report was due")
    next: str | None = Field(description="when the next is due")
    copies: list[CopyInfo]
    told: str
    job: JobInfo | None


class ReportOrderEdit(Strict):
    order: ReportOrder
    version: int = Field(ge=0, le=2**31 - 1)
    reason: Reason
