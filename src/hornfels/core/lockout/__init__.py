"""Bad tries and the locks they lead to: the state machine, stories, what guessing costs."""
