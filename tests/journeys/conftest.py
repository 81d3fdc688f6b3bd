from app.conftest import _as_in_the_program, qapp_cls, settled, window  # noqa: F401 - the same window, driven from end to end
