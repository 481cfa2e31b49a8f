"""Node to path: forms, form changes, combinations, lines, repeats, silhouettes and hit tests."""

# What repeats make is registered beside the making.
from volumen.outline import repeats as _repeats  # noqa: F401
from volumen.outline import steps as _steps  # noqa: F401
