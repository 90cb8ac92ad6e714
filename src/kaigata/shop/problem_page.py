"""A problem as a page of its own: for an address that a browser opens, such as a drawing's."""

from __future__ import annotations

from html import escape

__all__ = ["problem_page"]

_PAGE = """<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>{title} · Kaigata</title>
<style>
:root {{ --ground: #fcfbf7; --ink: #1f272b; --quiet: #5e6b70; --oxide: #a3262a; --dye: #2c4a8c; }}
@media (prefers-color-scheme: dark) {{
  :root {{ --ground: #1f272b; --ink: #e6e9e7; --quiet: #a9b3b0; --oxide: #f08a86; --dye: #9db6f2; }}
}}
body {{ margin: 0; background: var(--ground); color: var(--ink); }}
body {{ font: 14px/1.5 Barlow, sans-serif; }}
main {{ max-width: 480px; margin: 18vh auto 0; padding: 4px 20px; }}
main {{ border-left: 3px solid var(--oxide); }}
h1 {{ margin: 0; font-size: 17px; color: var(--oxide); }}
p {{ margin: 8px 0 0; }}
.where {{ color: var(--quiet); }}
a {{ color: var(--dye); }}
</style>
<main>
<h1>{what}</h1>
{rest}
<p><a href="{to}">{go}</a></p>
</main>
</html>
"""


def problem_page(*, status: int, title: str, what: str, where: str = "", fix: str = "") -> str:
    """Return a page that says what is wrong, where, and how to mend it.

    Parameters
    ----------
    status : int
        The answer's; who is not signed in is sent to sign in, everybody else to the orders.
    title, what, where, fix : str
        As a problem has them.
    """
    rest = [f'<p class="where">{escape(where)}</p>'] if where else []
    rest += [f"<p>{escape(fix)}.</p>"] if fix else []
    to, go = ("/sign-in", "Sign in") if status == 401 else ("/", "To the orders")
    return _PAGE.format(title=escape(title), what=escape(what), rest="\n".join(rest), to=to, go=go)
