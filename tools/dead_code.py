"""Finds what nothing uses: functions, classes and names of the code, templates, scripts, classes of the style sheets.

Prints each with its place and exits with 1 if there is any. FRAMEWORK lists what frameworks call by name; a name that
a template reads counts as used.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).resolve().parents[1]
WEB = ROOT / "src" / "kitchen"
DECORATORS = [
    "@model_validator*", "@field_validator*", "@app.periodic*", "@app.task*", "@register.*", "@receiver*", "@njit*",
]  # fmt: skip
# Called or read by Django, pydantic, numba, OR-Tools, procrastinate or the standard library, never by name here.
FRAMEWORK = {
    "Meta", "Command", "FacesConfig", "KitchenConfig", "LineConfig", "LogbookConfig", "ServicesConfig",
    "DatabaseWrapper", "StaticStorage", "MemberBackend", "OwnSessionMiddleware",
    "KitchenMiddleware", "KeptTapsMiddleware", "OnceMiddleware", "SignInMiddleware",
    "NotAllowedMiddleware", "BackToTodayMiddleware", "RequestIdMiddleware", "MeasureMiddleware",
    "PrivacyMiddleware",
    "WorkMiddleware", "WithIds", "process_exception", "child_exit",
    "post_worker_init", "Router", "db_for_read", "db_for_write", "allow_relation", "collect",
    "add_arguments", "handle", "help", "ready", "app_name",
    "urlpatterns", "handler403",
    "handler404", "handler500", "model_config", "process_view", "handle_no_permission",
    "form_valid", "form_invalid", "on_solution_callback", "abstract", "ordering", "constraints",
    "indexes", "verbose_name_plural", "template_name", "authentication_form",
    "redirect_authenticated_user", "is_usable", "get_user",
    "forbidden", "not_found", "server_error", "csrf_failure",
}  # fmt: skip
BY_NAME = re.compile(r"clean_\w+|__\w+__")  # a form's field by field, and what Python itself calls
COLUMNS = {
    "LOOKED",
    "BOILED",
    "HOTTEST",
    "TEMPERATURE",
}  # of compiled kernels' tables: named so that the rest count right
KINDS = ("class", "function", "method", "property", "variable")
WORD = re.compile(r"[A-Za-z_][\w-]*")
CLASS = re.compile(r"\.(-?[A-Za-z_][\w-]*)")


def text_of(*patterns: str, without: str = "vendor") -> str:
    """All files of these patterns below the web application, one after another."""
    paths = (path for pattern in patterns for path in sorted(WEB.rglob(pattern)))
    return "\n".join(path.read_text("utf-8") for path in paths if without not in path.parts)


def unused_code(read_by_pages: set[str]) -> Iterator[str]:
    """Functions, classes, methods and constants that no code, no test and no template names."""
    search = Vulture(ignore_decorators=DECORATORS)
    search.scavenge([str(ROOT / "src"), str(ROOT / "tests"), str(ROOT / "tools")], exclude=["*/migrations/*"])
    for item in search.get_unused_code(min_confidence=60):
        path = Path(item.filename)
        if ROOT / "src" not in path.parents or "settings" in path.parts or item.typ not in KINDS:
            continue
        line = path.read_text("utf-8").splitlines()[item.first_lineno - 1]
        if item.typ == "variable" and (line.startswith(" ") or not item.name.isupper()):
            continue  # a field of a record: formats and rows have them for others
        if item.name not in FRAMEWORK | read_by_pages | COLUMNS and not BY_NAME.fullmatch(item.name):
            yield f"{path.relative_to(ROOT)}:{item.first_lineno}: unused {item.typ} {item.name}"


def unused_templates(code: str, pages: str) -> Iterator[str]:
    """Templates that no view renders and no other template includes."""
    folder = WEB / "templates"
    endings = re.findall(r"\{\w+\}(_\w+\.html)", code)  # f"plans/{what}_svg.html"
    for path in sorted(folder.rglob("*.html")):
        name = path.relative_to(folder).as_posix()
        if name not in code and name not in pages and not any(name.endswith(end) for end in endings):
            yield f"{path.relative_to(ROOT)}: unused template"


def unused_styles(code: str, pages: str, scripts: str) -> Iterator[str]:
    """Classes of the style sheets that no page, no script and no code gives to anything."""
    words = set(WORD.findall(pages)) | set(WORD.findall(scripts)) | set(WORD.findall(code))
    beginnings = set(re.findall(r"""([A-Za-z][\w-]*-)(?:\{|\$\{|["'] \+)""", pages + scripts + code))
    for path in sorted((WEB / "static").glob("*.css")):
        rules = re.sub(r"/\*.*?\*/|\{[^{}]*\}", " ", path.read_text("utf-8"), flags=re.S)
        for name in sorted(set(CLASS.findall(rules))):
            if name not in words and not any(name.startswith(begin) for begin in beginnings):
                yield f"{path.relative_to(ROOT)}: unused class .{name}"


def unused_scripts(pages: str) -> Iterator[str]:
    """Scripts that no page loads and no other script imports, and what they export to nobody."""
    folder = WEB / "static" / "js"
    texts = {path: path.read_text("utf-8") for path in sorted(folder.rglob("*.js"))}
    for path, text in texts.items():
        others = "".join(other for at, other in texts.items() if at != path)
        if f"js/{path.relative_to(folder).as_posix()}" not in pages and f'/{path.name}"' not in others:
            yield f"{path.relative_to(ROOT)}: unused script"
        for name in re.findall(r"^export (?:async )?(?:const|function) (\w+)", text, re.M):
            if not re.search(rf"\b{name}\b", others):
                yield f"{path.relative_to(ROOT)}: unused export {name}"


def main() -> int:
    """Print what is found; 1 where there is any."""
    code, pages, scripts = text_of("*.py"), text_of("*.html"), text_of("*.js")
    read_by_pages = set(re.findall(r"\w+", " ".join(re.findall(r"\{[{%].*?[%}]\}", pages, re.S))))
    lines = [
        *unused_code(read_by_pages), *unused_templates(code, pages), *unused_styles(code, pages, scripts),
        *unused_scripts(pages),
    ]  # fmt: skip
    print("\n".join(lines) or "Everything is used.")
    return 1 if lines else 0


if __name__ == "__main__":
    sys.exit(main())
