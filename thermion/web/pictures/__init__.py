"""Every drawing and chart, as SVG."""
