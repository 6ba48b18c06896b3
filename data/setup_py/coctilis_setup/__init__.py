# What a setup.py says of extension modules by setup(), written down as a makefile: Coctilis puts this in the place of
# the modules that such scripts load (sitecustomize.py). Python files are copied at once; whatever is compiled becomes a
# rule. What is not followed ends the script with a word on it.
