<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\MariaDbSource;
use App\Estate\Models\Cluster;
use Fulcrion\Tools\WebServer;
use OpenSSLCertificateSigningRequest;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What answers people, as it is really served, and servers that answer nothing. Neither looks at the date.
 */
#[Group('today')]
final class ServingTest extends TestCase
{
    private static ?WebServer $server = null;

    public static function tearDownAfterClass(): void
    {
        self::$server?->stop();
        self::$server = null;
    }

    /** @return iterable<string, array{string, int}> */
    public static function addresses(): iterable
    {
        yield 'alive' => ['/up', 200];
        yield 'sign-in' => ['/sign-in', 200];
        yield 'a page asks for the sign-in first' => ['/tune/statements', 302];
        yield 'the front under its own name' => ['/index.php', 404];
        yield 'a script beside it' => ['/build/x.php', 404];
        yield 'the settings' => ['/.env', 404];
        yield 'the settings one level up' => ['/..%2f.env', 400];
        yield 'the history' => ['/.git/config', 404];
        yield 'hidden below what is given away' => ['/build/.hidden', 404];
        yield 'an asset that is not there' => ['/build/assets/nothing.js', 404];
        yield 'the code' => ['/../core/Sql/Parser.php', 400];
    }

    #[DataProvider('addresses')]
    public function test_gives_away_the_pages_and_nothing_else(string $path, int $status): void
    {
        [$line, $head, $body] = $this->ask("GET {$path} HTTP/1.1");
        self::assertStringContainsString(" {$status} ", $line, $body);
        self::assertStringNotContainsStringIgnoringCase('php', $head, 'no header tells what serves the page');
        self::assertDoesNotMatchRegularExpression('~APP_KEY|\[core\]|<\?php|nginx/\d~', $body);
    }

    public function test_a_name_that_is_not_served_is_refused(): void
    {
        self::assertStringContainsString(' 400 ', $this->ask('GET /sign-in HTTP/1.1', 'elsewhere.example')[0]);
    }

    public function test_tls_is_a_matter_of_two_files(): void
    {
        $directory = sys_get_temp_dir().'/fulcrion-tls-'.bin2hex(random_bytes(4));
        mkdir($directory, 0o700);
        $key = openssl_pkey_new(['private_key_bits' => 2048]);
        assert($key !== false);
        openssl_pkey_export_to_file($key, "{$directory}/key.pem");
        $request = openssl_csr_new(['commonName' => 'fulcrion.example'], $key);
        assert($request instanceof OpenSSLCertificateSigningRequest);
        $signed = openssl_csr_sign($request, null, $key, 2);
        assert($signed !== false);
        openssl_x509_export_to_file($signed, "{$directory}/certificate.pem");
        $write = fn (string $certificate): int => $this->configure($directory, [
            'FULCRION_TLS_CERTIFICATE' => $certificate,
            'FULCRION_TLS_KEY' => "{$directory}/key.pem",
        ]);
        self::assertSame(0, $write("{$directory}/certificate.pem"));
        $written = (string) file_get_contents("{$directory}/nginx.conf");
        self::assertStringContainsString('listen 127.0.0.1:8499 ssl;', $written);
        self::assertStringContainsString("ssl_certificate {$directory}/certificate.pem;", $written);
        self::assertStringContainsString('Strict-Transport-Security', $written);
        exec('/usr/sbin/nginx -t -c '.escapeshellarg("{$directory}/nginx.conf").' 2>&1', $said, $status);
        self::assertSame(0, $status, implode("\n", $said));
        self::assertSame(1, $write("{$directory}/missing.pem"), 'a certificate that is not there is no reason to serve without');
        self::assertSame(1, $write("/etc/hostname\nserver{}"), 'a name cannot add to the configuration');
        self::assertSame(0, $this->configure($directory, []));
        self::assertStringNotContainsString('ssl', preg_replace('~#.*~', '', (string) file_get_contents("{$directory}/nginx.conf")) ?? '');
        exec('rm -rf '.escapeshellarg($directory));
    }

    public function test_a_server_that_takes_the_call_and_is_silent_holds_nobody(): void
    {
        config(['fulcrion.reachable' => '127.0.0.1']);
        $silent = stream_socket_server('tcp://127.0.0.1:0');
        self::assertIsResource($silent);
        $name = (string) stream_socket_get_name($silent, false);
        $cluster = (new Cluster())->forceFill([
            'host' => '127.0.0.1',
            'port' => (int) substr($name, (int) strrpos($name, ':') + 1),
            'username' => 'reader',
            'secret' => 'x',
            'tls' => false,
            'is_own' => false,
        ]);
        $began = hrtime(true);
        $problems = (new MariaDbSource($cluster))->check();
        self::assertLessThan(10.0, (hrtime(true) - $began) / 1e9);
        self::assertStringContainsString('cannot be reached', $problems[0]->problem ?? '');
        fclose($silent);
    }

    /** @param  array<string, string>  $environment */
    private function configure(string $directory, array $environment): int
    {
        $command = implode(
            ' ',
            array_map(escapeshellarg(...), [PHP_BINARY, base_path('bin/server.php'), $directory, $directory, '127.0.0.1:8499', '2']),
        );
        $set = implode(
            ' ',
            array_map(
                static fn (string $name, string $value): string => escapeshellarg("{$name}={$value}"),
                array_keys($environment),
                $environment,
            ),
        );
        exec("env -u FULCRION_TLS_CERTIFICATE -u FULCRION_TLS_KEY {$set} {$command} 2>&1", $said, $status);

        return $status;
    }

    /**
     * Sent as it is written: a library would tidy the path first.
     *
     * @return array{string, string, string} first line, head and body
     */
    private function ask(string $line, string $host = 'localhost'): array
    {
        // As for people: what applies in production only has to be seen as well.
        self::$server ??= WebServer::start(
            [...getenv(), 'APP_ENV' => 'production', 'APP_DEBUG' => 'false', 'APP_KEY' => (string) config('app.key')],
            2,
        );
        $connection = stream_socket_client(str_replace('http://', 'tcp://', self::$server->base), $code, $message, 5);
        self::assertIsResource($connection, (string) $message);
        fwrite($connection, "{$line}\r\nHost: {$host}\r\nConnection: close\r\n\r\n");
        $answer = (string) stream_get_contents($connection);
        fclose($connection);
        [$head, $body] = explode("\r\n\r\n", $answer, 2) + [1 => ''];

        return [(string) strtok($head, "\r\n"), $head, $body];
    }
}
