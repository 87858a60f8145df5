"""Hold the docstrings of the core to what numpydoc asks for; everything that lacks is listed.

Every public function says of each parameter and of what it returns its type, of arrays the shape, of numbers
the unit, the range or in words what they are; and every error that it raises itself.
"""

import ast
import re
import sys
from pathlib import Path

from docstring_parser import DocstringStyle, parse

ROOT = Path(__file__).resolve().parent.parent
ARRAY, NUMBER = re.compile(r"\w*Array\b|NDArray"), re.compile(r"\b(int|float)\b")
SHAPE = re.compile(r"shape|broadcast|of length")
GIVEN = ("self", "cls")
PROPERTIES = ("property", "cached_property")


def public(body, owner=""):
    """Public functions and classes of a module, and the methods of these, each with its name."""
    for node in body:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield node.name, node
            yield from public(node.body, f"{node.name}.")
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield owner + node.name, node


def arrays_lacking(node):
    """Fields of a public class that are arrays, and whose shape its docstring does not say."""
    found = parse(ast.get_docstring(node) or "", DocstringStyle.NUMPYDOC)
    told = {name: one for one in found.params for name in one.arg_name.split(", ")}
    for field in node.body:
        if isinstance(field, ast.AnnAssign) and ARRAY.search(ast.unparse(field.annotation)):
            name = ast.unparse(field.target)
            if name not in told or not SHAPE.search(f"{told[name].type_name} {told[name].description}"):
                yield f"{name}: a shape"


def lacking(node):
    """What the docstring of a function, or of a class, lacks, in words."""
    if isinstance(node, ast.ClassDef):
        yield from arrays_lacking(node)
        return
    text = ast.get_docstring(node)
    if not text:
        yield "a docstring"
        return
    found = parse(text, DocstringStyle.NUMPYDOC)
    told = {name: one for one in found.params for name in one.arg_name.split(", ")}
    arguments = [*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs]
    arguments = {a.arg: ast.unparse(a.annotation) for a in arguments if a.arg not in GIVEN}
    gathered = ((sign, one) for sign, one in (("*", node.args.vararg), ("**", node.args.kwarg)) if one)
    arguments |= {f"{sign}{one.arg}": ast.unparse(one.annotation) for sign, one in gathered}
    yield from (f"no such parameter: {name}" for name in told if name not in arguments)
    for name, annotation in arguments.items():
        if name not in told:
            yield f"parameter {name}"
        else:
            yield from (f"{name}: {what}" for what in unsaid(annotation, told[name]))
    returns = ast.unparse(node.returns) if node.returns else "None"
    if returns != "None" and not any(ast.unparse(one) in PROPERTIES for one in node.decorator_list):
        if not found.many_returns:
            yield "returns"
        else:
            whole = " ".join(f"{one.type_name} {one.description}" for one in found.many_returns)
            if ARRAY.search(returns) and not SHAPE.search(whole):
                yield "returns: a shape"
    listed = {name for one in found.raises for name in one.type_name.split(", ")}
    yield from (f"raises {name}" for name in sorted(raised(node) - listed))


def unsaid(annotation, told):
    """What is not said of a parameter."""
    whole = f"{told.type_name} {told.description or ''}"
    if ARRAY.search(annotation) and not SHAPE.search(whole):
        yield "a shape"
    if NUMBER.search(annotation) and "," not in (told.type_name or "") and not told.description:
        yield "a unit, a range, or what it is"


def raised(node):
    """Names of the errors that a function raises itself."""
    errors = (one.exc for one in ast.walk(node) if isinstance(one, ast.Raise) and one.exc)
    made = (error.func for error in errors if isinstance(error, ast.Call))
    return {name.id for name in made if isinstance(name, ast.Name) and name.id[0].isupper()}


def main():
    found = []
    for path in sorted((ROOT / "src" / "core").rglob("*.py")):
        for name, node in public(ast.parse(path.read_text("utf-8")).body):
            where = f"{path.relative_to(ROOT)}:{node.lineno}: {name}"
            found += [f"{where} does not say: {what}" for what in lacking(node)]
    print("\n".join(found) or "Docstrings of the core say what they should.")
    sys.exit(bool(found))


if __name__ == "__main__":
    main()
