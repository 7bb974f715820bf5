"""What does the job use and cost: areas and masses, remnants, time, money.

``parted`` parts a sheet into what becomes of it; ``remnants`` finds what is kept; ``material_use`` has
masses and the definitions of utilisation; ``costs`` what it comes to, with the shop's ``costing``;
``sheet_yield`` the quick figures that every screen shows. Nothing here searches: what else an order could
be is asked in nesting.

>>> from venzo.core.yields.costing import CostRules
>>> CostRules().worth_keeping(short=300, area=300 * 1220)
True
"""
