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


sys.meta_path.insert(0, Ours())
# Other scripts that it starts are left alone.
if len(getattr(sys, 'argv', [])) == 1 and os.path.basename(sys.argv[0]) == 'setup.py':
    from coctilis_setup.rules import forget

    forget()
    sys.argv.append('build')
