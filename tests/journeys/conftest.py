from app.conftest import (  # noqa: F401 - one and the same window
    _as_in_the_program,
    _modules_are_no_rubbish,
    qapp_cls,
    qtbot,
    settled,
    shape_cache,
    window,
)
