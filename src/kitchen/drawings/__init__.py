"""Pure functions from core results to SVG geometry: no models, no requests, no units but °C, mm and px."""
