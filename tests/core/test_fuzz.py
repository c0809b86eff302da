"""The first inputs of every kind that `make fuzz` goes on with, and those whose answer was once a trace back."""

from __future__ import annotations

import pytest

from hearthline.core.errors import DeckError, FileError, ModelError
from hearthline.core.formats.deck.reader import read
from hearthline.core.models.veriloga.compiler import compile_text
from tests.fuzz import KINDS, fault

COUNT = {"device": 6}


@pytest.mark.parametrize("kind", KINDS)
def test_damaged_inputs_are_answered(kind):
    """With what was read, or an error that is meant for people."""
    for number in range(COUNT.get(kind, 40)):
        assert not (found := fault(kind, number)), f"{kind} {number}: {found}"


@pytest.mark.parametrize("name", ["x\0y", "-" * 2000, "a\nb"])
def test_a_name_that_no_file_can_have(tmp_path, name):
    """Is refused where it is written, in decks, device texts and kits."""
    from hearthline.core.formats.kit_folder import INSTALLED, read_kit

    quoted = name.replace("\n", "\x01")
    (tmp_path / "t.cir").write_text(f'title\nr1 a 0 1\n.include "{quoted}"\n')
    with pytest.raises(DeckError, match="t.cir:3: '.*' cannot be the name of a file"):
        read(tmp_path / "t.cir", "t.cir")
    with pytest.raises(ModelError, match="dut.va:1: '.*' cannot be the name of a file"):
        compile_text(f'`include "{quoted}"\nmodule a(p); inout p; electrical p; endmodule\n', "dut.va", tmp_path)
    text = (INSTALLED / "lm130" / "kit.toml").read_text()
    (tmp_path / "kit.toml").write_text(text.replace('models = "lm130.lib"', f'models = "{"-" * 2000}"'))
    with pytest.raises(FileError, match="cannot be the name of a file"):
        read_kit(tmp_path)
