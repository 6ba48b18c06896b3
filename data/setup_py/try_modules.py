# What is run once all is built: try_modules.py load MODULE loads an extension module, try_modules.py test NAME runs the
# tests of that name. Exit code 77: it cannot be said, for another module is not there.
import importlib
import os
import re
import sys
import unittest


def not_there(lacking):
    """Ends it where a module lacks that is none of what was built."""
    own = {entry.split('.')[0] for entry in os.listdir('build/lib')} | {name.split('.')[0]}
    if lacking and lacking.split('.')[0] not in own:
        print('the module', lacking, 'is not there')
        sys.exit(77)


what, name = sys.argv[1:3]
sys.path[0:1] = [os.path.abspath('build/lib'), os.getcwd()] if what == 'test' else [os.path.abspath('build/lib')]
try:
    if what == 'load':
        module = importlib.import_module(name)
        print('loaded', getattr(module, '__file__', name))
        sys.exit(0)
    tests = unittest.defaultTestLoader.loadTestsFromName(name)
    for error in unittest.defaultTestLoader.errors:
        lacking = re.search(r"^ModuleNotFoundError: No module named '([\w.]+)'", error, re.MULTILINE)
        not_there(lacking and lacking.group(1))
    if tests.countTestCases() == 0:
        print('there are no tests in', name)
        sys.exit(77)
    sys.exit(0 if unittest.TextTestRunner().run(tests).wasSuccessful() else 1)
except ModuleNotFoundError as error:
    not_there(error.name)
    raise
