"""Node to path: forms, form changes, combinations, lines, stepped blends, silhouettes and hit tests."""
