"""The table of what is known of the installation itself."""

from sqlalchemy import CheckConstraint
from sqlalchemy.orm import Mapped, mapped_column

from idle_shimmer.store.tables.base import Base


class Installation(Base):
    """The installation, one row at most: ``store_mark`` is what its store of files carries."""

    __tablename__ = "installation"

    id: Mapped[int] = mapped_column(CheckConstraint("id = 1"), primary_key=True, default=1)
    store_mark: Mapped[str]
