# All that setup() is told, and what files beside the script say; it brings on the build.
import configparser
import importlib.metadata
import os
import re
import sys
import sysconfig

from .commands import Nothing, commands
from .rules import SetupError, give_up, note_copy, rules, words


class Metadata:
    def __init__(self, said):
        self.said = said

    def __getattr__(self, name):
        if name.startswith('__'):
            raise AttributeError(name)
        if name.startswith('get_'):
            return lambda: self.said.get(name[4:]) or ('UNKNOWN' if name[4:] in ('name', 'version') else None)
        return self.said.get(name)

    def get_fullname(self):
        return '%s-%s' % (self.get_name(), self.get_version())


class Distribution:
    def __init__(self, attrs=None):
        said = dict(attrs or {})
        self.said, self.metadata = said, Metadata(said)
        self.cmdclass, self.command_options, self.commands_made, self.has_run = {}, {}, {}, set()
        self.script_name, self.script_args, self.commands = sys.argv[0], sys.argv[1:], ['build']
        self.verbose, self.dry_run, self.help = 1, 0, 0
        for key in (
            'packages',
            'py_modules',
            'package_dir',
            'package_data',
            'ext_modules',
            'libraries',
            'include_dirs',
            'headers',
            'scripts',
            'data_files',
            'test_suite',
            'install_requires',
            'ext_package',
            'entry_points',
            'cffi_modules',
        ):
            setattr(self, key, None)
        for key, value in said.items():
            setattr(self, key, value)
        self.cmdclass = self.cmdclass or {}

    def __getattr__(self, name):
        if name.startswith('get_') and name[4:] in (
            'name',
            'version',
            'fullname',
            'description',
            'url',
            'author',
            'license',
        ):
            return getattr(self.metadata, name)
        raise AttributeError(name)

    def parse_config_files(self, *given, **more):
        self.read_files_beside()

    def parse_command_line(self):
        return True

    def get_option_dict(self, command):
        return self.command_options.setdefault(command, {})

    def get_command_class(self, command):
        if command in self.cmdclass:
            return self.cmdclass[command]
        if command not in commands:
            raise SetupError('invalid command %r' % command)
        return commands[command]

    def get_command_obj(self, command, create=1):
        if command not in self.commands_made:
            made = self.get_command_class(command)
            if 'command_name' not in vars(made):
                try:
                    made.command_name = command
                except TypeError:
                    pass
            self.commands_made[command] = made(self)
        return self.commands_made[command]

    def reinitialize_command(self, command, **more):
        name = command if isinstance(command, str) else command.get_command_name()
        out = self.get_command_obj(name)
        out.initialize_options()
        out.finalized = 0
        self.has_run.discard(name)
        for key, value in more.items():
            setattr(out, key, value)
        return out

    def run_command(self, command):
        if command in self.has_run:
            return
        out = self.get_command_obj(command)
        out.ensure_finalized()
        if not isinstance(out, Nothing) or command in self.cmdclass:
            out.run()
        self.has_run.add(command)

    def run_commands(self):
        self.run_command('build')

    def announce(self, message, level=1):
        print(message)

    def has_ext_modules(self):
        return bool(self.ext_modules)

    def has_c_libraries(self):
        return bool(self.libraries)

    def has_pure_modules(self):
        return bool(self.packages or self.py_modules)

    def is_pure(self):
        return not self.has_ext_modules() and not self.has_c_libraries()

    # What files beside the script say that it does not say itself.
    def read_files_beside(self):
        said = configparser.ConfigParser(interpolation=None)
        try:
            said.read('setup.cfg', encoding='utf-8')
        except (configparser.Error, UnicodeDecodeError):
            return
        options = dict(said['options']) if said.has_section('options') else {}
        for key in ('name', 'version'):
            if not self.said.get(key) and said.has_option('metadata', key) and ':' not in said['metadata'][key]:
                self.said[key] = said['metadata'][key]
        if self.package_dir is None and 'package_dir' in options:
            self.package_dir = dict(
                (a.strip(), b.strip())
                for a, _, b in (line.partition('=') for line in options['package_dir'].split('\n'))
                if b
            )
        if self.packages is None and 'packages' in options:
            where = said.get('options.packages.find', 'where', fallback='.').strip()
            found = options['packages'].strip()
            self.packages = (
                find_namespace_packages(where)
                if found == 'find_namespace:'
                else find_packages(where)
                if found == 'find:'
                else words(found)
            )
        if self.py_modules is None and 'py_modules' in options:
            self.py_modules = words(options['py_modules'])
        if self.package_data is None and said.has_section('options.package_data'):
            self.package_data = {
                ('' if key == '*' else key): words(value) for key, value in said['options.package_data'].items()
            }
        for section in ('build_ext', 'build_clib', 'build_py', 'build'):
            if said.has_section(section):
                for key, value in said[section].items():
                    if key not in (
                        'compiler',
                        'inplace',
                        'parallel',
                        'debug',
                        'force',
                        'build_lib',
                        'build_temp',
                        'build_base',
                    ):
                        self.command_options.setdefault(section, {})[key.replace('-', '_')] = value

    def read_project_file(self):
        try:
            import tomllib

            with open('pyproject.toml', 'rb') as lines:
                said = tomllib.load(lines)
        except (ImportError, OSError, ValueError):
            return
        for key in ('name', 'version'):
            if not self.said.get(key) and isinstance(said.get('project', {}).get(key), str):
                self.said[key] = said['project'][key]
        ours = said.get('tool', {}).get('setuptools', {})
        if self.package_dir is None:
            self.package_dir = ours.get('package-dir')
        packages = ours.get('packages')
        if self.packages is None and isinstance(packages, dict):
            where = (packages.get('find', {}).get('where') or ['.'])[0]
            self.packages = find_packages(where)
            if where != '.' and self.package_dir is None:
                self.package_dir = {'': where}
        elif self.packages is None and packages:
            self.packages = list(packages)

    # Where nothing says which packages there are: those below src/, or those beside the script.
    def find_what_nobody_says(self):
        if self.packages is not None or self.py_modules is not None:
            return
        where = (self.package_dir or {}).get('') or ('src' if os.path.isdir('src') and find_packages('src') else '.')
        self.packages = find_packages(
            where, exclude=('test', 'tests', 'test.*', 'tests.*', 'docs', 'examples', 'build', 'benchmarks')
        )
        if where != '.' and not self.package_dir:
            self.package_dir = {'': where}


def find_packages(where='.', exclude=(), include=('*',), needs_file=True):
    from fnmatch import fnmatchcase

    out = []
    for folder, below, names in os.walk(where, followlinks=True):
        below.sort()
        name = os.path.relpath(folder, where).replace(os.sep, '.')
        below[:] = [one for one in below if '.' not in one and one != '__pycache__']
        if name == '.':
            below[:] = [one for one in below if one != 'build' or where != '.']  # what is made lies there
            continue
        if needs_file and '__init__.py' not in names:
            below[:] = []
            continue
        if any(fnmatchcase(name, one) for one in include) and not any(fnmatchcase(name, one) for one in exclude):
            out.append(name)
    return out


def find_namespace_packages(where='.', exclude=(), include=('*',)):
    return find_packages(where, exclude, include, needs_file=False)


class PackageFinder:
    find = staticmethod(find_packages)


class PEP420PackageFinder:
    find = staticmethod(find_namespace_packages)


def find_generated(dist):
    """Extension modules that a script of the tree describes: FILE:NAME, a description or a function that gives it."""
    for place in words(dist.cffi_modules):
        path, _, name = place.partition(':')
        said = {'__name__': '__cffi__', '__file__': path}
        with open(path) as text:
            exec(compile(text.read(), path, 'exec'), said)
        described = said[name]
        described = described() if not hasattr(described, 'set_source') else described
        os.makedirs('build/generated', exist_ok=True)
        dist.ext_modules = list(dist.ext_modules or []) + [described.distutils_extension('build/generated')]


def install_rest(dist):
    """What goes elsewhere than to the modules: programs, headers, and files for folders that are named."""
    for path in words(dist.scripts):
        rules.install(path, 'bin', '755')
    for path in words(dist.headers):
        rules.install(path, 'include/python%s/%s' % (sysconfig.get_python_version(), dist.said.get('name') or ''))
    for one in dist.data_files or []:
        folder, paths = ('', [one]) if isinstance(one, str) else one
        for path in paths:
            rules.install(path, folder or '.')
    points = dist.entry_points if isinstance(dist.entry_points, dict) else {}
    for line in lines_of(points.get('console_scripts')):
        found = re.match(r'\s*([\w.\-]+)\s*=\s*([\w.]+)\s*:\s*([\w.]+)', line)
        if found:
            path = 'build/scripts/' + found.group(1)
            os.makedirs('build/scripts', exist_ok=True)
            with open(path, 'w') as out:
                out.write(
                    '#!%s\nimport sys\nfrom %s import %s\n' % (sys.executable, found[2], found[3].split('.')[0])
                )
                out.write('sys.exit(%s())\n' % found[3])
            rules.install(path, 'bin', '755')


def lines_of(value):
    return value.split('\n') if isinstance(value, str) else list(value or [])


def setup(**said):
    make = said.pop('distclass', None) or Distribution
    dist = make(said)
    dist.read_files_beside()
    dist.read_project_file()
    dist.find_what_nobody_says()
    if dist.ext_package:
        for extension in dist.ext_modules or []:
            extension.name = dist.ext_package + '.' + extension.name
    find_generated(dist)
    for name in lines_of(dist.install_requires):
        found = re.match(r'\s*([A-Za-z][\w.\-]*)', name)
        if found and ';' not in name:
            try:
                importlib.metadata.version(found.group(1))
                answer = 'yes'
            except importlib.metadata.PackageNotFoundError:
                answer = 'no'
            print('checking for module %s... %s' % (found.group(1), answer))
    if said.get('rust_extensions'):
        give_up('extension modules in Rust are not followed')
    dist.run_commands()
    install_rest(dist)
    name = re.sub(r'[^A-Za-z0-9.]+', '_', str(dist.said.get('name') or 'unknown'))
    folder = 'build/lib/%s.egg-info' % name
    os.makedirs(folder, exist_ok=True)
    with open(folder + '/PKG-INFO', 'w') as out:
        out.write('Metadata-Version: 2.1\nName: %s\nVersion: %s\n' % (name, dist.said.get('version') or '0'))
    note_copy(folder + '/PKG-INFO')
    if isinstance(dist.test_suite, str):
        rules.tests.append(('test', dist.test_suite))
    rules.write()
    return dist


def run_setup(*given, **more):
    give_up('a setup.py that runs another one is not followed')
