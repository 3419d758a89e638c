"""Coefficients of RODAS3, a stiffly accurate, L-stable Rosenbrock method of order 3 with an embedded one of order 2.

Sandu et al. 1997, Atmospheric Environment 31:3459, in the form that saves products with the Jacobian (Hairer & Wanner,
Solving ODEs II, section IV.7): (1/(hγ) - J) Kᵢ = f(T + Σ aᵢⱼ Kⱼ) + Σ cᵢⱼ Kⱼ / h, and T + Σ mᵢ Kᵢ; the error is K₄.
"""

from __future__ import annotations

GAMMA = 0.5
A31 = 2.0
A41, A43 = 2.0, 1.0
C21 = 4.0
C31, C32 = 1.0, -1.0
C41, C42, C43 = 1.0, -1.0, -8.0 / 3.0
WEIGHTS = (2.0, 0.0, 1.0, 1.0)

A_MATRIX = ((0.0, 0.0, 0.0, 0.0), (0.0, 0.0, 0.0, 0.0), (A31, 0.0, 0.0, 0.0), (A41, 0.0, A43, 0.0))
C_MATRIX = ((0.0, 0.0, 0.0, 0.0), (C21, 0.0, 0.0, 0.0), (C31, C32, 0.0, 0.0), (C41, C42, C43, 0.0))
