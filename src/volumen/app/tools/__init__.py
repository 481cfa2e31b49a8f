"""Canvas tools: each turns pointer gestures into previews and one undoable step."""
