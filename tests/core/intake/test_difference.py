from verdad_core.intake.bundle import Bundle, ModelText
from verdad_core.intake.difference import difference

OLD = "* v1\n.subckt a 1 2\nr1 1 2 10k\nc1 1 2\n+ 1n\n.model d1 d(is=1f)\n.ends\n"


def bundle(**texts: str) -> Bundle:
    return Bundle(tuple(ModelText(name, text, "") for name, text in texts.items()))


def test_changed_new_and_gone_statements_are_told_by_name() -> None:
    new = OLD.replace("10k", "12k").replace(".model d1 d(is=1f)\n", "") + "r9 1 0 1k\n"
    found = difference(bundle(old=OLD), bundle(new=new))
    assert [(change.statement, change.before, change.after) for change in found.changes] == [
        ("a.r1", "r1 1 2 10k", "r1 1 2 12k"),
        ("a..model d1", ".model d1 d(is=1f)", ""),
        ("r9", "", "r9 1 0 1k"),
    ]
    assert "-r1 1 2 10k" in found.lines
    assert "+r1 1 2 12k" in found.lines


def test_blanks_continuation_and_case_are_no_change() -> None:
    found = difference(bundle(a=OLD), bundle(a=OLD.replace("c1 1 2\n+ 1n", "C1  1 2 1N").replace("* v1", "* v2")))
    assert not found.changes
    assert found.lines


def test_files_are_compared_by_name() -> None:
    found = difference(bundle(a=OLD, b="r1 1 0 1\n"), bundle(A=OLD, c="r2 1 0 1\n"))
    assert [(change.file, change.statement) for change in found.changes] == [("b", "r1"), ("c", "r2")]


def test_the_same_is_no_difference() -> None:
    assert difference(bundle(a=OLD), bundle(b=OLD)).lines == ()
