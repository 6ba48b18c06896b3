# Sources in Cython's language: which extension modules they make, and the rules by which they become C or C++.
import glob
import os
import re
import shutil
import subprocess

from .rules import Extension, give_up, plain, quoted, rules, words


def said_in(source):
    """What comments at the beginning of such a source say: # distutils: KEY = VALUE."""
    out = {}
    with open(source, encoding='utf-8', errors='replace') as lines:
        for line in lines:
            if line.strip() and not line.lstrip().startswith('#'):
                break
            found = re.match(r'#\s*distutils:\s*(\w+)\s*=\s*(.*)', line.strip())
            if found:
                out[found.group(1)] = found.group(2).strip().strip('[]')
    return out


def module_name_of(source):
    folder, name = os.path.split(os.path.normpath(source))
    parts = [os.path.splitext(name)[0]]
    while folder and any(os.path.exists(os.path.join(folder, '__init__' + one)) for one in ('.py', '.pyx', '.pxd')):
        folder, name = os.path.split(folder)
        parts.insert(0, name)
    return '.'.join(parts)


def expanded(extension):
    """An extension module of each source that a pattern names, with what the sources say themselves."""
    if getattr(extension, 'cython', None) is not None:
        return [extension]  # it is one of those
    if not any(source.endswith(('.pyx', '.py')) or '*' in source for source in extension.sources):
        return [extension]
    main = extension.sources[0]
    paths = sorted(glob.glob(main, recursive=True)) if '*' in main else [main]
    if not paths:
        give_up('there are no files %s, of which extension modules are to be made' % main)
    out = []
    for path in paths:
        one = Extension.__new__(Extension)
        one.__dict__.update(
            {key: list(value) if isinstance(value, list) else value for key, value in vars(extension).items()}
        )
        one.__class__ = type(extension)
        one.sources = [path] + extension.sources[1:]
        if '*' in extension.name:
            one.name = module_name_of(path)
        if path.endswith(('.pyx', '.py')) and os.path.exists(path):
            for key, value in said_in(path).items():
                if key == 'language':
                    one.language = one.language or value
                elif key == 'define_macros':
                    one.define_macros += [
                        tuple(pair.split('=')) if '=' in pair else (pair, None) for pair in words(value)
                    ]
                elif key == 'sources':
                    folder = os.path.dirname(path)
                    one.sources += [
                        each if os.path.exists(each) else os.path.join(folder, each) for each in words(value)
                    ]
                elif key in Extension.lists:
                    setattr(one, key, list(getattr(one, key)) + words(value))
        out.append(one)
    return out


def program():
    return shutil.which('cython3') or shutil.which('cython')


def version():
    """Of the program, as scripts ask for that of the module; one that is not there is new enough."""
    if not program():
        return '3.0'
    said = subprocess.run(
        [program(), '-V'], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors='replace'
    )
    found = re.search(r'\d+(\.\w+)+', said.stdout)
    return found.group(0) if found else '3.0'


def cython_rule(source, extension):
    """The rule by which a source becomes one of C or C++; gives its name."""
    stem = os.path.splitext(source)[0]
    is_c_plus_plus = extension.language == 'c++'
    made = stem + ('.cpp' if is_c_plus_plus else '.c')
    if not os.path.exists(source) or not program():
        for shipped in (made, stem + '.c', stem + '.cpp'):
            if os.path.exists(shipped) and os.path.normpath(shipped) not in rules.made:
                return shipped
        give_up('cython3 is not there')
    said = dict(extension.cython or {})
    options = ['--cplus'] if is_c_plus_plus else []
    directives = dict(getattr(extension, 'cython_directives', None) or {})
    directives.update(said.get('compiler_directives') or {})
    level = directives.pop('language_level', None) or said.get('language_level')
    if level is not None:
        options.append({'2': '-2', '3': '-3', '3str': '--3str'}.get(str(level), '-3'))
    for key, value in directives.items():
        options += ['-X', '%s=%s' % (key, value)]
    for key, value in (said.get('compile_time_env') or {}).items():
        options += ['-E', '%s=%s' % (key, value)]
    for folder in dict.fromkeys(
        words(said.get('include_path'))
        + words(getattr(extension, 'cython_include_dirs', None))
        + words(extension.include_dirs)
        + ['.']
    ):
        if os.path.isdir(folder):
            options += ['-I', folder]
    options += ['--module-name', extension.name]
    rules.add(made, [source], ['%s %s -o $@ %s' % (plain(program()), quoted(options), plain(source))])
    return made


def cythonize(
    module_list,
    exclude=None,
    nthreads=0,
    aliases=None,
    quiet=False,
    force=None,
    language=None,
    exclude_failures=False,
    **options
):
    out = []
    left_out = {path for pattern in words(exclude) for path in glob.glob(pattern, recursive=True)}
    for one in [module_list] if isinstance(module_list, (str, os.PathLike, Extension)) else list(module_list):
        if not isinstance(one, Extension):
            one = Extension('*', [os.fspath(one)], language=language)
        for extension in expanded(one):
            if extension.sources[0] in left_out:
                continue
            extension.cython = options
            out.append(extension)
    return out
