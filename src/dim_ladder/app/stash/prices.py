"""What fastenings and an hour of work cost, what a cut takes, what is worth keeping: of the workshop, not of one weave."""

from __future__ import annotations

from pydantic import ValidationError
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLineEdit, QVBoxLayout, QWidget

from dim_ladder.app.labels import Label
from dim_ladder.base import InputError, read_length, read_number, typed_length
from dim_ladder.library import FASTENINGS
from dim_ladder.stash import Stash

MOST = 1e6


class Prices(QDialog):
    """Asks for the prices of a stash; `asked` gives the stash with them. An empty field is a price that is not known."""

    def __init__(self, stash: Stash, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Prices and rates")
        self._stash = stash
        self.result_stash: Stash | None = None
        self.currency = self._field("currency, such as a sign", stash.currency)
        self.rate = self._field("an hour of work", _money(stash.rate))
        self.keep = self._field("shortest length that is kept", typed_length(stash.keep_mm))
        self.loss = self._field("what every cut takes", typed_length(stash.loss_mm))
        self.prices = {
            key: self._field(f.words, _money(stash.prices.get(key)))
            for key, f in FASTENINGS.items()
            if f.part
        }
        form = QFormLayout()
        for text, field in (
            ("currency", self.currency), ("an hour of work costs", self.rate), ("kept from", self.keep), ("a cut takes", self.loss),
        ):  # fmt: skip
            form.addRow(text, field)
        for key, field in self.prices.items():
            form.addRow(FASTENINGS[key].words, field)
        self.trouble = Label()
        self.trouble.setWordWrap(True)
        self.trouble.setObjectName("quiet")
        buttons = QDialogButtonBox(
            QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel
        )
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        layout.addWidget(self.trouble)
        layout.addWidget(buttons)

    def _field(self, name: str, text: str) -> QLineEdit:
        field = QLineEdit(text)
        field.setAccessibleName(name)
        field.setPlaceholderText("not known")
        return field

    def asked(self) -> Stash:
        """The stash with what is typed. Raises InputError with the field that cannot be read."""
        prices = {k: v for k, v in self._stash.prices.items() if k not in self.prices}
        for key, field in self.prices.items():
            found = _price(field)
            if found is not None:
                prices[key] = found
        update = {
            "currency": self.currency.text().strip(),
            "rate": _price(self.rate),
            "prices": prices,
            "keep_mm": read_length(self.keep.text(), "cm", maximum=100_000),
            "loss_mm": read_length(self.loss.text(), "mm", maximum=1000),
        }
        try:
            return Stash.model_validate({**self._stash.model_dump(), **update})
        except ValidationError as e:
            raise InputError(
                f"the prices cannot be kept: {e.errors()[0]['msg']}", "A currency has at most 8 letters"
            ) from None

    def accept(self) -> None:
        try:
            self.result_stash = self.asked()
        except InputError as e:
            self.trouble.setText(str(e))
            return
        super().accept()


def _money(value: float | None) -> str:
    """As it was written: rounding would be an edit."""
    return "" if value is None else f"{value:.10g}"


def _price(field: QLineEdit) -> float | None:
    text = field.text().strip()
    if not text:
        return None
    try:
        return read_number(text, "a price", "0.55", maximum=MOST)
    except InputError as e:
        raise InputError(f"{field.accessibleName()}: {e.message}", e.hint) from None
