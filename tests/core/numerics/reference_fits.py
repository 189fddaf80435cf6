"""Statistical Reference Datasets of the U.S. National Institute of Standards and Technology (public domain): nonlinear regression.

Each set: the model, the data, the certified parameters with their standard deviations, and the residual sum of squares. All
are written down from memory and confirmed by recomputation in extended precision: a wrong digit would show.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ReferenceFit:
    model: str
    x: tuple[float, ...]
    y: tuple[float, ...]
    certified: dict[str, tuple[str, str]]
    squares: str


def _pairs(text: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
    numbers = [float(v) for v in text.split()]
    return tuple(numbers[1::2]), tuple(numbers[::2])


_MISRA = _pairs(
    "10.07 77.6 14.73 114.9 17.94 141.1 23.93 190.8 29.61 239.9 35.18 289.0 40.02 332.8 44.82 378.4 50.76 434.8 55.05 477.3 "
    "61.01 536.8 66.40 593.1 75.47 689.1 81.78 760.0"
)
_RAT42 = _pairs("8.930 9 10.800 14 18.590 21 22.330 28 39.350 42 56.110 57 61.730 63 64.620 70 67.080 79")
_RAT43 = _pairs(
    "16.08 1 33.83 2 65.80 3 97.20 4 191.55 5 326.20 6 386.87 7 520.53 8 590.03 9 651.92 10 724.93 11 699.56 12 689.96 13 637.56 14 717.41 15"
)
_MGH09 = _pairs(
    "1.957e-1 4 1.947e-1 2 1.735e-1 1 1.6e-1 5e-1 8.44e-2 2.5e-1 6.27e-2 1.67e-1 4.56e-2 1.25e-1 3.42e-2 1e-1 3.23e-2 8.33e-2 "
    "2.35e-2 7.14e-2 2.46e-2 6.25e-2"
)
_MGH10 = _pairs(
    "34780 50 28610 55 23650 60 19630 65 16370 70 13720 75 11540 80 9744 85 8261 90 7030 95 6005 100 5147 105 4427 110 3820 115 3307 120 2872 125"
)
_BOX = _pairs("109 1 149 2 149 3 191 5 213 7 224 10")
_DANIEL = _pairs("2.138 1.309 3.421 1.471 3.597 1.490 4.340 1.565 4.882 1.611 5.660 1.680")

SETS: dict[str, ReferenceFit] = {
    "Misra1a": ReferenceFit(
        "b1*(1 - exp(-b2*x))", *_MISRA,
        {"b1": ("2.3894212918E+02", "2.7070075241E+00"), "b2": ("5.5015643181E-04", "7.2668688436E-06")}, "1.2455138894E-01",
    ),
    "Misra1b": ReferenceFit(
        "b1*(1 - (1 + b2*x/2)^(-2))", *_MISRA,
        {"b1": ("3.3799746163E+02", "3.1643950207E+00"), "b2": ("3.9039091287E-04", "4.2547321834E-06")}, "7.5464681533E-02",
    ),
    "Misra1c": ReferenceFit(
        "b1*(1 - (1 + 2*b2*x)^(-1/2))", *_MISRA,
        {"b1": ("6.3642725809E+02", "4.6638326572E+00"), "b2": ("2.0813627256E-04", "1.7728423155E-06")}, "4.0966836971E-02",
    ),
    "Misra1d": ReferenceFit(
        "b1*b2*x/(1 + b2*x)", *_MISRA,
        {"b1": ("4.3736970754E+02", "3.6489174345E+00"), "b2": ("3.0227324449E-04", "2.9334354479E-06")}, "5.6419295283E-02",
    ),
    "DanWood": ReferenceFit(
        "b1*x^b2", *_DANIEL,
        {"b1": ("7.6886226176E-01", "1.8281973860E-02"), "b2": ("3.8604055871E+00", "5.1726610913E-02")}, "4.3173084083E-03",
    ),
    "BoxBOD": ReferenceFit(
        "b1*(1 - exp(-b2*x))", *_BOX,
        {"b1": ("2.1380940889E+02", "1.2354515176E+01"), "b2": ("5.4723748542E-01", "1.0455993237E-01")}, "1.1680088766E+03",
    ),
    "Rat42": ReferenceFit(
        "b1/(1 + exp(b2 - b3*x))", *_RAT42,
        {"b1": ("7.2462237576E+01", "1.7340283401E+00"), "b2": ("2.6180768402E+00", "8.8295217536E-02"),
         "b3": ("6.7359200066E-02", "3.4465663377E-03")}, "8.0565229338E+00",
    ),
    "Rat43": ReferenceFit(
        "b1/(1 + exp(b2 - b3*x))^(1/b4)", *_RAT43,
        {"b1": ("6.9964151270E+02", "1.6302297817E+01"), "b2": ("5.2771253025E+00", "2.0828735829E+00"),
         "b3": ("7.5962938329E-01", "1.9566123451E-01"), "b4": ("1.2792483859E+00", "6.8761936385E-01")}, "8.7864049080E+03",
    ),
    "MGH09": ReferenceFit(
        "b1*(x^2 + x*b2)/(x^2 + x*b3 + b4)", *_MGH09,
        {"b1": ("1.9280693458E-01", "1.1435312227E-02"), "b2": ("1.9128232873E-01", "1.9633220911E-01"),
         "b3": ("1.2305650693E-01", "8.0842031232E-02"), "b4": ("1.3606233068E-01", "9.0025542308E-02")}, "3.0750560385E-04",
    ),
    "MGH10": ReferenceFit(
        "b1*exp(b2/(x + b3))", *_MGH10,
        {"b1": ("5.6096364710E-03", "1.5687892471E-04"), "b2": ("6.1813463463E+03", "2.3309021107E+01"),
         "b3": ("3.4522363462E+02", "7.8486103508E-01")}, "8.7945855171E+01",
    ),
}  # fmt: skip
