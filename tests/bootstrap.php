<?php

declare(strict_types=1);

require __DIR__.'/../vendor/autoload.php';

// The test account's password is made with the installation; the framework reads the rest from the same file.
$file = __DIR__.'/../.env';
$settings = is_file($file) ? (parse_ini_file($file, false, INI_SCANNER_RAW) ?: []) : [];
if (isset($settings['DB_TEST_PASSWORD'])) {
    $password = trim((string) $settings['DB_TEST_PASSWORD'], '"');
    putenv("DB_PASSWORD={$password}");
    $_ENV['DB_PASSWORD'] = $_SERVER['DB_PASSWORD'] = $password;
}
