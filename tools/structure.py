"""Draw the structure from the imports, as Mermaid, into docs/architecture.md between its two marks.

With --check nothing is written; a drawing that is not current, views that no contract names and a class name
that stands twice end with an error.
"""

import argparse
import ast
import sys
import tomllib
from collections import defaultdict
from pathlib import Path

import grimp

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "architecture.md"
BEGIN, END = "<!-- drawn by `make structure` -->\n", "<!-- end of the drawing -->\n"
APPS = (
    "config",
    "students",
    "counting",
    "practice",
    "overtones",
    "bench",
    "passages",
    "catalogue",
    "evidence",
    "jobs",
    "studio",
    "drawing",
)
CORE = (
    "drills",
    "practice",
    "overtones",
    "routes",
    "evidence",
    "acoustics",
    "charts",
    "instruments",
    "music",
    "archive",
)


def drawing():
    """Applications and packages of the core as boxes; an arrow is one or more imports, most but for few."""
    sys.path.insert(0, str(ROOT / "src"))
    graph = grimp.build_graph(*APPS, "core", cache_dir=None)
    boxes = [*APPS, *(f"core.{name}" for name in CORE)]
    lines = ["```mermaid", "flowchart TD"]
    lines += ["  subgraph applications", *(f"    {name}" for name in APPS), "  end"]
    lines += ["  subgraph core", *(f"    core_{name}[{name}]" for name in CORE), "  end"]
    for box in boxes:
        modules = {box} | graph.find_descendants(box)
        imported = {other for module in modules for other in graph.find_modules_directly_imported_by(module)}
        for other in boxes:
            if other != box and any(name == other or name.startswith(f"{other}.") for name in imported):
                lines.append(f"  {box.replace('.', '_')} --> {other.replace('.', '_')}")
    return "\n".join([*lines, "```", ""])


def views_left_out():
    """Modules of views that the import contract does not name: it takes no wildcard there."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["tool"]["importlinter"][
        "contracts"
    ]
    held = next(one["source_modules"] for one in contracts if one["name"].startswith("Views"))
    there = {f"{path.parent.name}.{path.stem}" for path in (ROOT / "src").glob("*/*views.py")}
    return sorted(there - set(held))


def named_twice():
    """Public classes of which there are two by one name, with their files: one word, one meaning."""
    found = defaultdict(list)
    for path in sorted((ROOT / "src").rglob("*.py")):
        for node in [] if "migrations" in path.parts else ast.parse(path.read_text("utf-8")).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found[node.name].append(path.relative_to(ROOT / "src").as_posix())
    return [f"{name} in {' and '.join(files)}" for name, files in sorted(found.items()) if len(files) > 1]


def main():
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--check", action="store_true")
    text = PAGE.read_text("utf-8")
    before, rest = text.split(BEGIN)
    current = before + BEGIN + drawing() + END + rest.split(END)[1]
    if parser.parse_args().check:
        if left_out := views_left_out():
            sys.exit(f"pyproject.toml: the contract of views leaves out {', '.join(left_out)}")
        if twice := named_twice():
            sys.exit(f"a class name is used twice: {'; '.join(twice)}")
        sys.exit(0 if current == text else "docs/architecture.md is not current: make structure")
    PAGE.write_text(current, "utf-8")


if __name__ == "__main__":
    main()
