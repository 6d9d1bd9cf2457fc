<?php

declare(strict_types=1);

return [
    // Freezes the clock, for tests and screenshots: 2026-11-20T10:00:00Z
    'now' => env('FULCRION_NOW'),
    // The certificate the web server shows, whose end is watched.
    'certificate' => env('FULCRION_TLS_CERTIFICATE', ''),
    // Further host names people call the application by, with commas between them.
    'hosts' => env('FULCRION_HOSTS', ''),
    // Addresses or ranges beside the usual ones that webhooks and clusters may lead to: 127.0.0.1, 169.254.10.0/24.
    'reachable' => env('FULCRION_REACHABLE', ''),
    // Whether a change of a table is approved by somebody else than who asked for it.
    'second_pair' => (bool) env('FULCRION_SECOND_PAIR', false),
    // Files of the practice clusters.
    'practice' => env('FULCRION_PRACTICE', base_path('var/practice')),
    // Folders below which Parquet files may be mapped, separated by colons.
    'lake' => env('FULCRION_LAKE', base_path('var/lake')),
    'watcher' => [
        'user' => 'fulcrion_watcher',
        'password' => env('WATCHER_PASSWORD', ''),
    ],
    // Stops statements and sessions of our own MariaDB, and can do nothing else.
    'ender' => [
        'user' => 'fulcrion_ender',
        'password' => env('ENDER_PASSWORD'),
    ],
    // Writes policies out to our own MariaDB, in its own schemas only.
    'keeper' => [
        'user' => 'fulcrion_keeper',
        'password' => env('KEEPER_PASSWORD'),
        'schemas' => env('KEEPER_SCHEMAS', 'brackenfold'),
    ],
    // What amounts are in where no price book says otherwise.
    'currency' => env('FULCRION_CURRENCY', 'EUR'),
    // How long a run of a practice cluster that somebody asked for can be watched while it grows.
    'jobs' => ['watch_seconds' => (float) env('FULCRION_JOB_WATCH', 12)],
    'import' => [
        // Records written in one transaction.
        'batch' => 18_000,
    ],
];
