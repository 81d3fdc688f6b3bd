from app.conftest import qapp_cls, settled, window  # noqa: F401 - the same window, driven from end to end
