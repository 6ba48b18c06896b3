# Loaded by the interpreter before a setup.py: puts ours in the place of the modules that such scripts load, and says
# what the script is to do.
import importlib.abc
import importlib.machinery
import os
import sys


class Ours(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Gives the names that scripts load things by: all of it is in coctilis_setup."""

    def find_spec(self, name, path=None, target=None):
        if name.split('.')[0] not in ('setuptools', 'distutils', 'Cython'):
            return None
        from coctilis_setup.names import names

        if name not in names:
            return None
        return importlib.machinery.ModuleSpec(name, self, is_package=True)

    def create_module(self, spec):
        return None

    def exec_module(self, module):
        from coctilis_setup.names import fill

        fill(module)


# Programs and other scripts that it starts have the modules that they are made for.
if os.path.basename(getattr(sys, 'argv', [''])[0]) == 'setup.py':
    sys.meta_path.insert(0, Ours())
    if len(sys.argv) == 1:
        from coctilis_setup.rules import forget

        forget()
        sys.argv.append('build')
