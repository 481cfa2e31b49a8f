"""Lines of code and tests, their ratio, and the longest files and functions."""

from __future__ import annotations

import ast
from pathlib import Path

ROOT = Path(__file__).parent.parent


def lines(path: Path) -> int:
    return sum(1 for line in path.read_text(encoding="utf-8").splitlines() if line.strip())


def main() -> None:
    code, tests = sorted((ROOT / "src").rglob("*.py")), sorted((ROOT / "tests").rglob("*.py"))
    n, t = sum(map(lines, code)), sum(map(lines, tests))
    print(f"code {n} lines in {len(code)} files, tests {t} lines in {len(tests)} files, ratio {t / n:.2f}")
    longest = sorted(((len(p.read_text().splitlines()), p) for p in code + tests), reverse=True)[:6]
    print("longest files: " + ", ".join(f"{p.relative_to(ROOT)} {k}" for k, p in longest))
    functions = []
    for path in code:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.FunctionDef):
                functions.append(((node.end_lineno or 0) - node.lineno + 1, f"{path.stem}.{node.name}"))
    print("longest functions: " + ", ".join(f"{name} {k}" for k, name in sorted(functions, reverse=True)[:6]))


if __name__ == "__main__":
    main()
