"""Open Lemma: short scripts that give reproducible figures and numbers with evidence."""

__version__ = "0.1.0"
