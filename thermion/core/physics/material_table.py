"""The table of materials; what the columns mean and where they come from stands in `materials`.

Columns are parted by two spaces or more. `forms` names a set of `FORM_SETS`.
"""

from __future__ import annotations

FORM_SETS: dict[str, tuple[str, ...]] = {
    "sheet": ("flat", "folded", "crumpled", "shredded"),
    "foil": ("flat", "folded", "crumpled"),
    "roll": ("flat", "folded", "rolled", "crumpled", "shredded"),
    "stiff": ("flat", "folded"),
    "one": ("flat",),
}

HANDLED = """
key             name                  unit            m²      mm     forms  points  drinks mL  tight  look    sources
newspaper       Newspaper             sheet           0.24    0.07   sheet  1       12         0      print   A, D, E, F
copy_paper      White paper           sheet           0.0624  0.1    roll   2       4          0      plain   A, D, E, F
black_paper     Black paper           sheet           0.0624  0.2    roll   2       6          0      dark    A, C, E, F
tissue          Tissue paper          sheet           0.04    0.05   sheet  1       4          0      plain   A, D, E, F
kitchen_paper   Kitchen paper         sheet           0.05    0.3    sheet  1       14         0      plain   A, D, E, F
card            Thin card             sheet           0.0624  0.3    roll   2       5          0      plain   A, D, E, F
cardboard       Corrugated cardboard  piece           0.12    4      stiff  2       15         0      flute   B, D, E, F
egg_box         Egg box, piece        piece           0.03    3      one    0       8          0      flute   B, E, F
foil            Aluminium foil        sheet           0.09    0.015  foil   5       0          0      shine   B, C, E
foil_tray       Aluminium tray, cut   piece           0.03    0.08   stiff  6       0          0      shine   B, C, E
steel_sheet     Tin, cut open         piece           0.02    0.2    one    4       0          0      shine   A, E
copper_sheet    Copper sheet          piece           0.0025  0.5    one    9       0          0      shine   B, E
cling_film      Clear film            sheet           0.09    0.012  one    3       0          0      clear   A, C, E
acetate         Clear acetate         sheet           0.0624  0.1    roll   4       0          0      clear   A, C, E
glass           Glass pane            pane            0.04    2      one    6       0          0      clear   A, C, E
plastic_bag     Carrier bag           bag             0.2     0.03   sheet  3       0          0      clear   A, D, E
bin_bag         Black bin bag         bag             0.4     0.03   sheet  3       0          0      dark    A, C, E
bottle_plastic  Drink bottle, cut     piece           0.03    0.3    one    1       0          0      clear   A, D, E
bubble_wrap     Bubble wrap           sheet           0.09    4      stiff  4       1          0      bubble  B, D, E, F
foam            Packing foam          piece           0.04    10     one    5       2          0      bubble  A, E, F
foam_plate      Foam plate            plate           0.03    3      one    5       0          0      bubble  A, D, E
sponge          Sponge                piece           0.008   20     one    3       80         0      bubble  B, E, F
felt            Wool felt             piece           0.04    3      stiff  3       60         0      fibre   A, B, E, F
wool            Sheep's wool          handful         0.02    30     one    1       30         0      fibre   A, E, F
cotton          Cotton cloth          piece           0.09    0.6    sheet  3       25         0      fibre   B, E, F
denim           Old denim             piece           0.06    1      stiff  1       35         0      fibre   B, E, F
nylon           Thin nylon cloth      piece           0.09    0.1    stiff  3       4          0      fibre   A, E, F
fleece          Fleece                piece           0.09    4      stiff  4       40         0      fibre   B, E, F
cotton_wool     Cotton wool           handful         0.02    30     one    3       60         0      fibre   B, E, F
feathers        Feathers              handful         0.02    40     one    0       3          0      fibre   B, F
straw           Dry grass             handful         0.02    30     one    0       12         0      straw   A, F
leaves          Dry leaves            handful         0.02    30     one    0       10         0      straw   B, F
moss            Dry moss              handful         0.02    30     one    0       90         0      straw   B, F
sawdust         Sawdust               cup             0.02    12.5   one    0       60         0      grain   A, F
rice_husk       Oat husks             cup             0.02    12.5   one    0       25         0      grain   A, F
sand            Dry sand              cup             0.02    12.5   one    1       80         0      grain   A, B, F
soil            Dry soil              cup             0.02    12.5   one    0       100        0      grain   A, F
cork            Cork sheet            piece           0.03    3      one    3       2          0      grain   A, E, F
balsa           Balsa sheet           piece           0.01    2      one    4       3          0      wood    A, E, F
craft_stick     Craft stick           stick           0.0018  2      one    1       0.5        0      wood    A, D, E, F
plywood         Thin plywood          piece           0.02    3      one    4       4          0      wood    A, E, F
clay_tile       Clay tile             tile            0.01    8      one    3       8          0      grain   A, E, F
rubber          Rubber sheet          piece           0.01    2      one    4       0          0      dark    A, E
wax_paper       Waxed paper           sheet           0.06    0.08   roll   2       1          0      plain   A, D, E, F
black_paint     Black paint           coat            0.06    0.05   one    3       0          0      dark    C, E
tape            Paper tape            strip of 50 cm  0.0125  0.1    one    1       0.5        0.3    plain   D, E, F
clear_tape      Clear tape            strip of 50 cm  0.0095  0.05   one    2       0          0.35   clear   D, E, F
clay            Modelling clay        lump            0.005   10     one    2       0          0.25   grain   B, E, F
"""

SOLIDS = """
key             kg/m³  W/(m·K)  absorbs  passes  reflects  GPa
newspaper       650    0.13     0.45     0.05    0.5       2
copy_paper      800    0.13     0.2      0.1     0.7       3
black_paper     700    0.13     0.92     0       0.08      2.5
tissue          400    0.1      0.25     0.25    0.5       0.5
kitchen_paper   130    0.06     0.25     0.15    0.6       0.1
card            750    0.13     0.35     0.02    0.63      3
cardboard       150    0.065    0.65     0       0.35      0.5
egg_box         200    0.06     0.6      0       0.4       0.3
foil            2700   200      0.12     0       0.88      70
foil_tray       2700   200      0.15     0       0.85      70
steel_sheet     7850   50       0.35     0       0.65      200
copper_sheet    8960   390      0.35     0       0.65      120
cling_film      920    0.33     0.03     0.89    0.08      0.2
acetate         1300   0.2      0.05     0.85    0.1       2
glass           2500   1        0.06     0.86    0.08      70
plastic_bag     930    0.33     0.4      0.2     0.4       0.3
bin_bag         930    0.33     0.9      0.02    0.08      0.3
bottle_plastic  1350   0.2      0.05     0.85    0.1       2.5
bubble_wrap     25     0.045    0.08     0.76    0.16      0.001
foam            20     0.038    0.25     0.05    0.7       0.005
foam_plate      40     0.035    0.2      0.05    0.75      0.02
sponge          30     0.045    0.5      0       0.5       0.0005
felt            180    0.045    0.7      0       0.3       0.002
wool            25     0.038    0.5      0.05    0.45      0.0005
cotton          400    0.06     0.5      0.05    0.45      0.05
denim           500    0.07     0.85     0       0.15      0.1
nylon           600    0.2      0.4      0.2     0.4       0.4
fleece          90     0.04     0.6      0       0.4       0.001
cotton_wool     30     0.04     0.3      0.1     0.6       0.0005
feathers        8      0.034    0.5      0.1     0.4       0.0005
straw           60     0.055    0.6      0       0.4       0.001
leaves          50     0.06     0.65     0       0.35      0.001
moss            40     0.05     0.7      0       0.3       0.0005
sawdust         200    0.06     0.6      0       0.4       0.001
rice_husk       120    0.05     0.6      0       0.4       0.001
sand            1600   0.3      0.6      0       0.4       0.05
soil            1300   0.35     0.8      0       0.2       0.02
cork            160    0.05     0.7      0       0.3       0.02
balsa           160    0.055    0.45     0       0.55      3.5
craft_stick     600    0.14     0.45     0       0.55      10
plywood         550    0.13     0.5      0       0.5       9
clay_tile       1900   0.8      0.65     0       0.35      20
rubber          1200   0.17     0.93     0       0.07      0.01
wax_paper       850    0.15     0.2      0.3     0.5       2.5
black_paint     1200   0.2      0.95     0       0.05      1
tape            800    0.13     0.5      0       0.5       2.5
clear_tape      900    0.2      0.05     0.85    0.1       1.5
clay            1700   0.7      0.6      0       0.4       0.001
"""
