"""What does the job use and cost: area, remnant, cut length, time, money.

>>> from venzo.core.yields.sheet_yield import JobYield
>>> sorted(JobYield.model_fields)[:3]
['bound', 'cut_length', 'machine_cost']
"""
