"""Colours of the window: light and dark, and both with high contrast."""

from msgspec import Struct


class Theme(Struct, frozen=True):
    """Colours by what they are for; ``shade`` is the name of the pictures that go with them."""

    shade: str
    ground: str
    panel: str
    field: str
    ink: str
    quiet: str
    hairline: str
    outline: str
    chosen: str
    chosen_ground: str
    shown_ground: str
    rod: str
    brass: str
    on_rod: str
    number_shape: str
    group_shape: str
    notice_ground: str
    notice_edge: str
    notice_ink: str
    fault: str


LIGHT = Theme(
    shade="light",
    ground="#ECEFEA",
    panel="#F7F8F5",
    field="#FFFFFF",
    ink="#1E2B2F",
    quiet="#5B6A71",
    hairline="#D9DED8",
    outline="#74838A",
    chosen="#3D4EA1",
    chosen_ground="#DFE3F4",
    shown_ground="#E2EBE8",
    rod="#2A3A40",
    brass="#D9C48A",
    on_rod="#EEF1EC",
    number_shape="#5B8E93",
    group_shape="#95826A",
    notice_ground="#FBF0D3",
    notice_edge="#E2CB8B",
    notice_ink="#5A4409",
    fault="#9C2F1D",
)

DARK = Theme(
    shade="dark",
    ground="#161D20",
    panel="#1F282B",
    field="#283337",
    ink="#E6EBE8",
    quiet="#A3B0B3",
    hairline="#354145",
    outline="#78878C",
    chosen="#A9B6F5",
    chosen_ground="#333D6B",
    shown_ground="#2A3838",
    rod="#39494F",
    brass="#D9C48A",
    on_rod="#EEF1EC",
    number_shape="#6FA9AE",
    group_shape="#BBA78F",
    notice_ground="#453A1B",
    notice_edge="#6E5D2C",
    notice_ink="#F2E2B3",
    fault="#F0A294",
)

HIGH_LIGHT = Theme(
    shade="high-light",
    ground="#FFFFFF",
    panel="#FFFFFF",
    field="#FFFFFF",
    ink="#000000",
    quiet="#202020",
    hairline="#000000",
    outline="#000000",
    chosen="#00108A",
    chosen_ground="#D6DEFF",
    shown_ground="#E4E4E4",
    rod="#000000",
    brass="#FFD75E",
    on_rod="#FFFFFF",
    number_shape="#0E4A50",
    group_shape="#4F3D22",
    notice_ground="#FFF3B8",
    notice_edge="#000000",
    notice_ink="#000000",
    fault="#8A0000",
)

HIGH_DARK = Theme(
    shade="high-dark",
    ground="#000000",
    panel="#000000",
    field="#000000",
    ink="#FFFFFF",
    quiet="#E6E6E6",
    hairline="#FFFFFF",
    outline="#FFFFFF",
    chosen="#FFE45C",
    chosen_ground="#33407F",
    shown_ground="#262626",
    rod="#3A3A3A",
    brass="#FFE45C",
    on_rod="#FFFFFF",
    number_shape="#7FE3EC",
    group_shape="#E8CFA6",
    notice_ground="#2E2600",
    notice_edge="#FFE45C",
    notice_ink="#FFFFFF",
    fault="#FFB3A6",
)
