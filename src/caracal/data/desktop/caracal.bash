# Completion of caracal for bash. Made by scripts/desktop_files.py.
_caracal() {
  local here=${COMP_WORDS[COMP_CWORD]} words=''
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W 'demo open look analyse path captions convert prove batch desk cache log integrate specs' -- "$here"))
    return
  fi
  case ${COMP_WORDS[1]} in
    demo) words='' ;;
    open) words='--new-window' ;;
    look) words='--json' ;;
    analyse) words='--json --explain' ;;
    path) words='--shape --json' ;;
    captions) words='--out --force --language --names --terms --sound --audio-track --json' ;;
    convert) words='--spec --out --dry-run --replace --review --lead --manner --cuts --cut-list --sound --audio-track --layout --template --brand --bed --bed-gain --duck --clean --captions --from --to --speed --json' ;;
    prove) words='--spec --json' ;;
    batch) words='--spec --out --jobs --replace --sound --audio-track --layout --template --brand --bed --bed-gain --duck --clean --captions --review --bundle --cluster --tls-ca --tls-cert --tls-key --insecure --watch --json' ;;
    desk) words='' ;;
    cache) words='--clear --limit --json' ;;
    log) words='--lines' ;;
    integrate) words='--remove --force --into' ;;
    specs) words='' ;;
  esac
  case $here in
    -*) COMPREPLY=($(compgen -W "$words" -- "$here")) ;;
    *) COMPREPLY=($(compgen -f -- "$here")) ;;
  esac
}
complete -o filenames -F _caracal caracal
