"""Canvas tools: each turns pointer gestures into previews and one undoable step."""

from volumen.app.tools.areas import AreasTool
from volumen.app.tools.base import Tool
from volumen.app.tools.bend import BendTool
from volumen.app.tools.eyedropper import EyedropperTool
from volumen.app.tools.freehand import FreehandTool, NibTool
from volumen.app.tools.lamp import LampTool
from volumen.app.tools.level import LevelTool
from volumen.app.tools.light_check import LightCheckTool
from volumen.app.tools.match import MatchTool
from volumen.app.tools.mesh import MeshTool
from volumen.app.tools.move import MoveTool
from volumen.app.tools.pen import PenTool
from volumen.app.tools.points import PointsTool
from volumen.app.tools.ramp import RampTool
from volumen.app.tools.recolour import RecolourTool
from volumen.app.tools.rounding import RoundingTool
from volumen.app.tools.shapes import SHAPE_TOOLS
from volumen.app.tools.spindle import SpindleTool
from volumen.app.tools.text import TextTool
from volumen.app.tools.widths import WidthsTool

TOOLS: tuple[type[Tool], ...] = (
    MoveTool, *SHAPE_TOOLS, PenTool, FreehandTool, NibTool, PointsTool, TextTool, LevelTool, AreasTool, RoundingTool,
    BendTool, WidthsTool, SpindleTool, EyedropperTool, RampTool, MeshTool, RecolourTool, MatchTool, LampTool, LightCheckTool,
)  # fmt: skip
