"""Canvas tools: each turns pointer gestures into previews and one undoable step."""

from volumen.app.canvas.tools.areas import AreasTool
from volumen.app.canvas.tools.base import Tool
from volumen.app.canvas.tools.bend import BendTool
from volumen.app.canvas.tools.block import BlockTool
from volumen.app.canvas.tools.broken import BrokenTool
from volumen.app.canvas.tools.eyedropper import EyedropperTool
from volumen.app.canvas.tools.freehand import FreehandTool, NibTool
from volumen.app.canvas.tools.guides import GuidesTool
from volumen.app.canvas.tools.lamp import LampTool
from volumen.app.canvas.tools.level import LevelTool
from volumen.app.canvas.tools.light_check import LightCheckTool
from volumen.app.canvas.tools.match import MatchTool
from volumen.app.canvas.tools.mesh import MeshTool
from volumen.app.canvas.tools.move import MoveTool
from volumen.app.canvas.tools.pen import PenTool
from volumen.app.canvas.tools.points import PointsTool
from volumen.app.canvas.tools.ramp import RampTool
from volumen.app.canvas.tools.rays import RaysTool
from volumen.app.canvas.tools.recolour import RecolourTool
from volumen.app.canvas.tools.repeat import RepeatTool
from volumen.app.canvas.tools.rounding import RoundingTool
from volumen.app.canvas.tools.shapes import SHAPE_TOOLS
from volumen.app.canvas.tools.spindle import SpindleTool
from volumen.app.canvas.tools.text import TextTool
from volumen.app.canvas.tools.widths import WidthsTool

TOOLS: tuple[type[Tool], ...] = (
    MoveTool, *SHAPE_TOOLS, RaysTool, PenTool, FreehandTool, NibTool, PointsTool, TextTool, RepeatTool, BlockTool, BrokenTool, GuidesTool, LevelTool, AreasTool, RoundingTool,
    BendTool, WidthsTool, SpindleTool, EyedropperTool, RampTool, MeshTool, RecolourTool, MatchTool, LampTool, LightCheckTool,
)  # fmt: skip
