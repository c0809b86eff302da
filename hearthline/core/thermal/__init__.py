"""Heat in the die: where fingers stand, how warm each makes every other, and what its conductivity does over temperature."""
