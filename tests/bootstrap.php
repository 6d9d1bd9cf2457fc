<?php

declare(strict_types=1);

require __DIR__.'/../vendor/autoload.php';

// Apart from what the application keeps, which may belong to an account of its own.
$storage = getenv('FULCRION_STORAGE');
$storage = $storage === false ? 'test-storage' : $storage;
putenv("FULCRION_STORAGE={$storage}");
foreach (['app', 'framework/cache', 'framework/views', 'logs'] as $directory) {
    is_dir(__DIR__."/../var/{$storage}/{$directory}") || mkdir(__DIR__."/../var/{$storage}/{$directory}", 0o755, true);
}

// The test account's password is made with the installation; the framework reads the rest from the same file.
$file = __DIR__.'/../.env';
$settings = is_file($file) ? (array) parse_ini_file($file, false, INI_SCANNER_RAW) : [];
if (isset($settings['DB_TEST_PASSWORD'])) {
    $password = trim((string) $settings['DB_TEST_PASSWORD'], '"');
    putenv("DB_PASSWORD={$password}");
    $_ENV['DB_PASSWORD'] = $_SERVER['DB_PASSWORD'] = $password;
}
