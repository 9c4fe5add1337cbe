# Completion of tuvvo for bash.
_tuvvo()
{
    local current=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} words=
    COMPREPLY=()
    case $before in
        --stage) words="crate cut keys beat song print" ;;
        --audio) words="automatic jack pulse alsa simulated" ;;
        --input) words="none device line microphone cable" ;;
        --size|--text-scale) return ;;
        *)
            case $current in
                -*) words="--demo --play --stage --audio --input --daylight --text-scale --size --screenshot --time-first-paint --help --version" ;;
            esac ;;
    esac
    if [ -n "$words" ]; then
        mapfile -t COMPREPLY < <(compgen -W "$words" -- "$current")
    else
        compopt -o filenames 2>/dev/null
        mapfile -t COMPREPLY < <(compgen -f -- "$current")
    fi
}
complete -F _tuvvo tuvvo
