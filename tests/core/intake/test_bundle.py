import io
import stat
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verdad_core.errors import NetlistError
from verdad_core.intake.bundle import MAX_BYTES, MAX_FILES, MAX_FOLDERS, bundle

MODEL = b".subckt a 1 2\nr1 1 2 1k\n.ends\n"


def archive(*members: tuple[str | zipfile.ZipInfo, bytes]) -> bytes:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as opened:
        for name, data in members:
            opened.writestr(name, data)
    return target.getvalue()


def test_files_and_archives_become_one_bundle() -> None:
    together, findings = bundle([("C:\\x\\one.lib", MODEL), ("two.zip", archive(("folder/two.inc", MODEL)))])
    assert [file.name for file in together.files] == ["one.lib", "two.inc"]
    assert not findings


def test_a_bundle_is_known_by_its_names_and_texts() -> None:
    first, _ = bundle([("a.lib", MODEL), ("b.lib", b"* b\n")])
    again, _ = bundle([("b.lib", b"* b\r\n"), ("A.LIB", MODEL)])
    other, _ = bundle([("a.lib", MODEL.replace(b"1k", b"2k")), ("b.lib", b"* b\n")])
    assert first.digest == again.digest != other.digest


def test_what_is_no_text_is_left_out_with_its_reason() -> None:
    together, findings = bundle([("m.zip", archive(("a.lib", MODEL), ("sheet.pdf", b"%PDF-1.4"), ("empty.txt", b"")))])
    assert [file.name for file in together.files] == ["a.lib"]
    assert [(finding.place.file, "PDF" in finding.message or "empty" in finding.message) for finding in findings] == [
        ("sheet.pdf", True),
        ("empty.txt", True),
    ]


def link() -> zipfile.ZipInfo:
    info = zipfile.ZipInfo("a.lib")
    info.external_attr = (stat.S_IFLNK | 0o777) << 16
    return info


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (archive(("../../etc/passwd", MODEL)), "leads out of it"),
        (archive(("/etc/passwd", MODEL)), "leads out of it"),
        (archive(("C:/x.lib", MODEL)), "leads out of it"),
        (archive(("..\\up.lib", MODEL)), "leads out of it"),
        (archive((link(), b"/etc/passwd")), "is a link"),
        (archive(("inner.zip", archive(("a.lib", MODEL)))), "another archive"),
        (archive(("big.lib", b"*" * (MAX_BYTES + 1))), "would take"),
        (archive(("bomb.lib", b"*" * 3_000_000)), "would take"),
        (archive(*((f"{k}.lib", MODEL) for k in range(MAX_FILES + 1))), "holds 101 files"),
        (archive(("/".join("d" * 1 for _ in range(MAX_FOLDERS)) + "/a.lib", MODEL)), "deeper than"),
        (archive(("a.lib", MODEL))[:-30], "broken"),
        (b"PK\x03\x04rubbish", "broken"),
    ],
)
def test_unsafe_archives_are_refused_with_the_reason(data: bytes, why: str) -> None:
    with pytest.raises(NetlistError, match=why) as caught:
        bundle([("x.zip", data)])
    assert caught.value.remedy
    assert caught.value.place.file == "x.zip"


def test_an_archive_that_lies_about_its_size_is_refused() -> None:
    data = bytearray(archive(("a.lib", MODEL * 50)))
    central = data.rindex(b"PK\x01\x02")
    data[central + 24 : central + 28] = (10).to_bytes(4, "little")
    with pytest.raises(NetlistError, match=r"broken|larger than"):
        bundle([("x.zip", bytes(data))])


@pytest.mark.parametrize(
    ("files", "why"),
    [
        ([("a.lib", MODEL), ("x/A.lib", MODEL)], "two files are called"),
        ([("a.pdf", b"%PDF-1.4")], "no model text"),
        ([("a.lib", b"")], "no model text"),
        ([(f"{k}.lib", MODEL) for k in range(MAX_FILES + 1)], "more than 100 files"),
    ],
)
def test_what_cannot_be_kept_is_refused_whole(files: list[tuple[str, bytes]], why: str) -> None:
    with pytest.raises(NetlistError, match=why):
        bundle(files)


@given(st.binary(max_size=300), st.text(max_size=30))
def test_any_upload_gives_a_bundle_or_a_reason(data: bytes, name: str) -> None:
    try:
        together, _ = bundle([(name, data)])
        assert together.files[0].name
        assert not set('/\\"') & set(together.files[0].name)
    except NetlistError as error:
        assert error.remedy


@given(st.binary(max_size=60), st.integers(0, 200))
def test_a_damaged_archive_gives_a_bundle_or_a_reason(noise: bytes, place: int) -> None:
    data = bytearray(archive(("a.lib", MODEL), ("b/c.lib", MODEL)))
    data[place : place + len(noise)] = noise
    try:
        bundle([("x.zip", bytes(data))])
    except NetlistError as error:
        assert error.remedy
