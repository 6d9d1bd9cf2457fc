<?php

declare(strict_types=1);

/*
 * Writes the configuration of nginx and PHP-FPM for one address.
 *
 *   server.php RUN_DIRECTORY LOG_DIRECTORY LISTEN CHILDREN [ACCOUNT]
 *
 * LISTEN is what nginx takes: 127.0.0.1:8420. ACCOUNT is whom the processes run as when they are started by root. With
 * FULCRION_TLS_CERTIFICATE and FULCRION_TLS_KEY set to files, the address is served over TLS.
 */

[, $run, $log, $listen, $children] = $argv;
$account = $argv[5] ?? '';
$root = dirname(__DIR__);
$isRoot = posix_geteuid() === 0;
[$certificate, $key] = [(string) getenv('FULCRION_TLS_CERTIFICATE'), (string) getenv('FULCRION_TLS_KEY')];
$tls = $certificate !== '' && $key !== '';
foreach ($tls ? [$certificate, $key] : [] as $file) {
    if (! is_readable($file) || preg_match('~[\s;{}"\']~', $file) === 1) {
        fwrite(STDERR, "The file {$file} for TLS cannot be read, or its name holds characters that nginx would take for its own.\n");
        exit(1);
    }
}
if (preg_match('~[\s;{}"\']~', $root.$run.$log) === 1) {
    fwrite(STDERR, "The application lies in a directory whose name nginx cannot take: {$root}\n");
    exit(1);
}
$group = $account === '' ? '' : posix_getgrgid((posix_getpwnam($account) ?: ['gid' => 0])['gid'])['name'] ?? $account;
$values = [
    'root' => $root,
    'run' => $run,
    'log' => $log,
    'listen' => $listen.($tls ? ' ssl' : ''),
    'children' => (string) (int) $children,
    'processes' => '2',
    'tls' => $tls
        ? "ssl_certificate {$certificate};\n        ssl_certificate_key {$key};\n        ssl_protocols TLSv1.2 TLSv1.3;\n        "
        .'add_header Strict-Transport-Security "max-age=31536000" always;'
        : '',
    'account' => ! $isRoot
        ? ''
        : ($account === ''
            ? "user = root\ngroup = root"
            : "user = {$account}\ngroup = {$group}\nlisten.owner = {$account}\nlisten.group = {$group}\nlisten.mode = 0600"),
];
$fill = static fn (string $name): string => strtr(
    (string) file_get_contents("{$root}/server/{$name}"),
    array_combine(array_map(static fn (string $each): string => '{{'.$each.'}}', array_keys($values)), $values),
);
$user = $isRoot ? 'user '.($account === '' ? 'root' : "{$account} {$group}").";\n" : '';
is_dir($run) || mkdir($run, 0o750, true);
file_put_contents("{$run}/nginx.conf", $user.$fill('nginx.conf'));
file_put_contents("{$run}/php-fpm.conf", $fill('php-fpm.conf'));
$parameters = [
    'QUERY_STRING' => '$query_string',
    'REQUEST_METHOD' => '$request_method',
    'CONTENT_TYPE' => '$content_type',
    'CONTENT_LENGTH' => '$content_length',
    'REQUEST_URI' => '$request_uri',
    'DOCUMENT_URI' => '$document_uri',
    'DOCUMENT_ROOT' => '$document_root',
    'SERVER_PROTOCOL' => '$server_protocol',
    'REQUEST_SCHEME' => '$scheme',
    'HTTPS' => '$https if_not_empty',
    'GATEWAY_INTERFACE' => 'CGI/1.1',
    'SERVER_SOFTWARE' => 'nginx',
    'REMOTE_ADDR' => '$remote_addr',
    'REMOTE_PORT' => '$remote_port',
    'SERVER_ADDR' => '$server_addr',
    'SERVER_PORT' => '$server_port',
    'SERVER_NAME' => '$host',
    'REDIRECT_STATUS' => '200',
    'HTTP_PROXY' => '""',
];
file_put_contents(
    "{$run}/fastcgi.conf",
    implode(
        '',
        array_map(
            static fn (string $name, string $value): string => "fastcgi_param {$name} {$value};\n",
            array_keys($parameters),
            $parameters,
        ),
    ),
);
