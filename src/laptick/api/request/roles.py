"""Who may call which route: denied to everybody who is not named here. A test holds every route against it.

A student and a parent came by a personal link: what they may call they may call for that student's own only, which
``asking`` sees to. What is everybody's is told without being signed in.
"""

from __future__ import annotations

from laptick.studio.use_case import AskerRole

_EVERYBODY = frozenset(AskerRole)
_SIGNED_IN = frozenset({AskerRole.TEACHER, AskerRole.STUDENT, AskerRole.PARENT})
_TEACHERS = frozenset({AskerRole.TEACHER})

#: Route by the name of its function.
_ROUTES: dict[frozenset[AskerRole], str] = {
    _EVERYBODY: "get_me set_up sign_in sign_in_to_demo recover open_link get_trade",
    _SIGNED_IN: """
        sign_out
        get_tonight list_student_takes
        get_piece get_counts get_roadmap get_notation get_sheet get_schedule get_sound get_play_options list_strikes
        get_map
        get_study list_passages get_session get_practice_sheet
        say_word list_takes add_take add_take_file stand_in get_take get_next say_feel
        list_consents begin_recording get_recording put_chunk complete_recording get_playback drop_sound
        get_job
        list_limits list_count_systems
        get_voice get_made get_pack get_phrase get_word get_own_audio
    """,
    _TEACHERS: """
        get_account change_password new_recovery_code offer_second_factor set_second_factor end_session
        list_links make_link remove_link list_addresses
        list_audit list_who_left list_removed erase_student
        search_studio list_students add_student get_student update_student delete_student restore_student
        give_study end_study get_studio put_studio
        list_pieces add_piece update_piece delete_piece restore_piece get_original export_piece
        get_ruler_picture get_choices put_choices put_counts put_roadmap get_reading put_reading
        add_entry get_entry put_entry get_pencil add_change undo_change redo_change remove_change
        list_question_kinds list_questions answer_question
        list_drill_kinds add_drill look_at_drill
        put_school edit_ladder undo_edit get_studio_school put_studio_school
        add_simulated_take list_faults update_take delete_take restore_take
        judge_one_again judge_as_passage overrule withdraw outdated get_judging_job judge_all_again
        list_listenings add_listening delete_listening restore_listening beside
        add_consent withdraw_consent
        retry_job stop_job
        get_studio_choices put_studio_choices count_example
        add_own change_own get_trial
        ask_for_bundle get_bundle get_bundle_file begin_bundle put_bundle_chunk complete_bundle bring_in_bundle
        take_bundle_back
    """,
}

#: What is noted in the list of who saw, changed or deleted what, once it was done: route → what was done, and to what
#: kind of row (as the address names it; ``None``: to the studio, or to the teacher's own).
NOTED: dict[str, tuple[str, str | None]] = {
    "get_student": ("looked at", "student"),
    "add_student": ("added a student", None),
    "update_student": ("changed", "student"),
    "delete_student": ("let leave", "student"),
    "restore_student": ("put back", "student"),
    "erase_student": ("erased", "student"),
    "make_link": ("gave a link to", "student"),
    "remove_link": ("took a link back from", "student"),
    "add_consent": ("noted a consent", None),
    "withdraw_consent": ("withdrew", "consent"),
    "begin_recording": ("sent a recording", None),
    "get_playback": ("heard", "recording"),
    "drop_sound": ("deleted the sound of", "recording"),
    "delete_take": ("removed", "take"),
    "restore_take": ("put back", "take"),
    "overrule": ("overruled", "take"),
    "delete_piece": ("removed", "piece"),
    "restore_piece": ("put back", "piece"),
    "ask_for_bundle": ("saved a copy", None),
    "bring_in_bundle": ("brought a copy in", None),
    "take_bundle_back": ("took back what a copy brought", None),
    "put_studio": ("changed the studio", None),
    "sign_out": ("signed out", None),
    "change_password": ("changed the password", None),
    "new_recovery_code": ("made a recovery code", None),
    "set_second_factor": ("changed the second factor", None),
    "end_session": ("signed out elsewhere", None),
}

MAY_CALL: dict[str, frozenset[AskerRole]] = {name: roles for roles, names in _ROUTES.items() for name in names.split()}
