"""Typing into a form as a hand does: the field is entered, typed in, and left."""


def type_in(form, name, text):
    """Type a text into a field of a form and leave it."""
    box = form.fields[name].box
    box.setFocus()
    box.setText(text)
    box.textEdited.emit(text)
    box.editingFinished.emit()
