# The names that scripts load all of it by, and the small things that they use beside it.
import glob
import os
import re
import shlex
import shutil
import sys
import sysconfig

from .commands import Command, build_ext, commands
from .compiler import AnyCompiler, Compiler, get_default_compiler, new_compiler
from .cython_sources import cythonize, version
from .distribution import Distribution, Metadata, PackageFinder, PEP420PackageFinder  # noqa: F401
from .distribution import find_namespace_packages, find_packages, run_setup, setup  # noqa: F401
from .rules import CompileError, Extension, Library, LinkError, SetupError, copy_file, copy_tree, spawn  # noqa: F401
from .trying import config  # noqa: F401


def strtobool(value):
    value = value.lower()
    if value in ('y', 'yes', 't', 'true', 'on', '1'):
        return 1
    if value in ('n', 'no', 'f', 'false', 'off', '0'):
        return 0
    raise ValueError('invalid truth value %r' % value)


def convert_path(path):
    return path


def find_executable(program, path=None):
    return shutil.which(program, path=path)


def execute(func, args, msg=None, verbose=0, dry_run=0):
    func(*args)


def newer(source, target):
    return not os.path.exists(target) or os.path.getmtime(source) > os.path.getmtime(target)


def newer_group(sources, target, missing='error'):
    return not os.path.exists(target) or any(newer(one, target) for one in sources if os.path.exists(one))


def mkpath(name, *given, **more):
    os.makedirs(name, exist_ok=True)


def remove_tree(folder, *given, **more):
    shutil.rmtree(folder)


def get_python_inc(plat_specific=0, prefix=None):
    return sysconfig.get_path('platinclude' if plat_specific else 'include')


def get_python_lib(plat_specific=0, standard_lib=0, prefix=None):
    return sysconfig.get_path('platstdlib' if standard_lib else 'platlib')


class LooseVersion:
    def __init__(self, text=''):
        self.vstring = str(text)
        self.version = [int(one) if one.isdigit() else one for one in re.findall(r'\d+|[a-z]+', self.vstring)]

    def key(self, other):
        other = other if isinstance(other, LooseVersion) else LooseVersion(other)
        return [[(isinstance(one, int), one) for one in each.version] for each in (self, other)]

    def __lt__(self, other):
        ours, theirs = self.key(other)
        return ours < theirs

    def __eq__(self, other):
        ours, theirs = self.key(other)
        return ours == theirs

    def __le__(self, other):
        return self < other or self == other

    def __gt__(self, other):
        return not self <= other

    def __ge__(self, other):
        return not self < other

    def __str__(self):
        return self.vstring


class Log:
    DEBUG, INFO, WARN, ERROR, FATAL = 1, 2, 3, 4, 5

    @staticmethod
    def info(message, *given):
        print(message % given if given else message)

    debug = lambda *given: None  # noqa: E731
    set_verbosity = set_threshold = debug
    warn = warning = error = fatal = log = info


here = dict(globals())
of_commands = {
    '%s.command.%s' % (top, name): {name: made, '_' + name: made}
    for name, made in commands.items()
    for top in ('setuptools', 'distutils')
}
all_of_it = (
    'setup Extension Library Command Distribution find_packages find_namespace_packages PackageFinder '
    'PEP420PackageFinder '
    'SetupError'
).split()
errors = {
    name: SetupError
    for name in (
        'DistutilsError DistutilsSetupError DistutilsExecError DistutilsPlatformError DistutilsOptionError '
        'DistutilsArgError '
        'DistutilsFileError DistutilsModuleError DistutilsInternalError BaseError SetupError PlatformError '
        'OptionError ExecError'
    ).split()
}
errors.update(
    CompileError=CompileError, LinkError=LinkError, CCompilerError=CompileError, UnknownFileError=CompileError
)
# Module -> its names.
names = dict(of_commands)
names['setuptools'] = {**{name: here[name] for name in all_of_it}, '__version__': '66'}
names['distutils.core'] = {**{name: here[name] for name in all_of_it}, 'run_setup': run_setup}
names['distutils'] = {'__version__': '3.11', 'log': Log}
names['setuptools.dist'] = names['distutils.dist'] = {
    'Distribution': Distribution,
    'Feature': object,
    'DistributionMetadata': Metadata,
}
names['setuptools.extension'] = names['distutils.extension'] = {'Extension': Extension, 'Library': Library}
names['distutils.cmd'] = {'Command': Command}
for top in ('setuptools', 'distutils'):
    names[top + '.command'] = {'__all__': sorted(commands)}
    names[top + '.errors'] = errors
    names[top + '.log'] = {name: getattr(Log, name) for name in vars(Log) if not name.startswith('__')}
    names[top + '.ccompiler'] = {
        'CCompiler': AnyCompiler,
        'new_compiler': new_compiler,
        'get_default_compiler': get_default_compiler,
        'show_compilers': lambda: None,
        'gen_preprocess_options': lambda *given: [],
    }
    names[top + '.unixccompiler'] = {'UnixCCompiler': Compiler}
names['distutils.sysconfig'] = {
    'get_config_var': sysconfig.get_config_var,
    'get_config_vars': sysconfig.get_config_vars,
    'get_python_inc': get_python_inc,
    'get_python_lib': get_python_lib,
    'customize_compiler': lambda compiler: None,
    'PREFIX': sys.prefix,
    'EXEC_PREFIX': sys.exec_prefix,
    'get_python_version': sysconfig.get_python_version,
    'get_makefile_filename': sysconfig.get_makefile_filename,
    'get_config_h_filename': sysconfig.get_config_h_filename,
    'parse_config_h': sysconfig.parse_config_h,
    '_config_vars': sysconfig.get_config_vars(),
}
names['distutils.util'] = {
    'get_platform': sysconfig.get_platform,
    'get_host_platform': sysconfig.get_platform,
    'strtobool': strtobool,
    'convert_path': convert_path,
    'execute': execute,
    'split_quoted': shlex.split,
    'change_root': lambda root, path: os.path.join(root, path.lstrip('/')),
    'byte_compile': lambda *given, **more: None,
}
names['distutils.version'] = {'LooseVersion': LooseVersion, 'StrictVersion': LooseVersion, 'Version': LooseVersion}
names['distutils.spawn'] = {'find_executable': find_executable, 'spawn': spawn}
names['distutils.dir_util'] = {
    'mkpath': mkpath,
    'copy_tree': copy_tree,
    'remove_tree': remove_tree,
    'create_tree': lambda *given, **more: None,
}
names['distutils.file_util'] = {
    'copy_file': copy_file,
    'move_file': shutil.move,
    'write_file': lambda path, lines: open(path, 'w').write('\n'.join(lines) + '\n'),
}
names['distutils.dep_util'] = names['setuptools.dep_util'] = {
    'newer': newer,
    'newer_group': newer_group,
    'newer_pairwise': lambda a, b: (list(a), list(b)),
}
names['distutils.debug'] = {'DEBUG': None}
names['distutils.filelist'] = {
    'findall': lambda top='.': [os.path.join(folder, one) for folder, _, each in os.walk(top) for one in each]
}
names['setuptools.glob'] = {'glob': glob.glob}
names['setuptools.command.build_ext']['libtype'] = 'shared'
names['Cython'] = {'__version__': version}
names['Cython.Build'] = {'cythonize': cythonize, 'build_ext': build_ext}
names['Cython.Build.Dependencies'] = {'cythonize': cythonize}
names['Cython.Distutils'] = {'build_ext': build_ext, 'Extension': Extension}
names['Cython.Distutils.build_ext'] = {'build_ext': build_ext, 'new_build_ext': build_ext, 'old_build_ext': build_ext}
names['Cython.Distutils.extension'] = {'Extension': Extension}
names['Cython.Compiler'] = {}
names['Cython.Compiler.Options'] = {'get_directive_defaults': dict, 'docstrings': True, 'annotate': False}
names['Cython.Compiler.Version'] = {'version': version}


def fill(module):
    for name, value in names[module.__name__].items():
        setattr(module, name, value() if value is version else value)
    module.__path__ = []
    # What lies below it can be taken as a part of it, as scripts do that load one and use others.
    for other in names:
        parent, _, name = other.rpartition('.')
        if (
            parent == module.__name__
            and parent in ('setuptools', 'distutils', 'setuptools.command', 'distutils.command')
            and not hasattr(module, name)
        ):
            __import__(other)
