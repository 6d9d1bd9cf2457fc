<?php

declare(strict_types=1);

// Read replicas or a multi-writer cluster: list hosts, separated by commas, in DB_READ_HOST and DB_HOST.
$hosts = static fn (string $name, string $default): array => explode(',', (string) env($name, $default));

return [
    'default' => 'mariadb',
    'connections' => [
        'mariadb' => [
            'driver' => 'mariadb',
            'read' => ['host' => $hosts('DB_READ_HOST', (string) env('DB_HOST', '127.0.0.1'))],
            'write' => ['host' => $hosts('DB_HOST', '127.0.0.1')],
            'sticky' => true,
            'port' => env('DB_PORT', '3306'),
            'database' => env('DB_DATABASE', 'fulcrion'),
            'username' => env('DB_USERNAME', 'fulcrion_app'),
            'password' => env('DB_PASSWORD', ''),
            'charset' => 'utf8mb4',
            'collation' => 'utf8mb4_unicode_ci',
            'timezone' => '+00:00',
            'strict' => true,
            'options' => [PDO::ATTR_EMULATE_PREPARES => true, PDO::ATTR_STRINGIFY_FETCHES => false],
        ],
    ],
    'migrations' => ['table' => 'migrations', 'update_date_on_publish' => false],
];
