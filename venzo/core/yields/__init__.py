"""What does the job use and cost: area, remnant, cut length, time, money."""
