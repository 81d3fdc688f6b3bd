from app.conftest import _as_in_the_program, qapp_cls, settled, shape_cache, window  # noqa: F401 - one and the same window
