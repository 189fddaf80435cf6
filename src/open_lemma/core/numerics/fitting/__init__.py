"""Models adjusted to data: least squares without starting values, with proof and with what the numbers are worth.

model → scales → projection → search → polish → statistics → fit, each resting on those before it.
"""
