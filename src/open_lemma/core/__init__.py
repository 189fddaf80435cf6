"""The core: language, mathematics, figures and runs. It knows no web, no database and no clock but those it is handed."""

import sys

# Trees and formulas are gone through by functions that call themselves. The reader of the language limits how deep a tree is
# (see `language.expressions`): about 2,000 levels of three or four calls each. The limit is set once: it belongs to the process,
# and to set it back after a run would end those in other threads.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 20_000))
