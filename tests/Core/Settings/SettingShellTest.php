<?php

declare(strict_types=1);

namespace Tests\Core\Settings;

use Fulcrion\Core\Settings\SettingCommand;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * A real shell is the oracle: whatever a value holds, the command gets it as one word and nothing else is run.
 */
final class SettingShellTest extends TestCase
{
    /** Programs of these names say what they were given, a word a line. */
    private const STUBS = 'for name in sysctl mount prlimit timedatectl; do eval "$name() { printf \'%s\\n\' $name \"\\$@\"; }"; done; '
        .'pidof() { echo 77; }; ';

    /**
     * @return iterable<string, array{string, string, list<string>}> setting, value, words a program is given
     */
    public static function words(): iterable
    {
        $values = ['1', 'madvise', 'a b', "it's", '$HOME', '`id`', '$(id)', '; touch /tmp/x', '"', '\\', '*', '-n', "two\nlines", '',
            '&& true', '#x'];
        foreach ($values as $value) {
            yield 'sysctl of '.json_encode($value) => ['vm.swappiness', $value, ['sysctl', '-w', "vm.swappiness={$value}"]];
            yield 'mount with '.json_encode($value) => ['mount./data', $value, ['mount', '-o', "remount,{$value}", '/data']];
            yield 'mount at '.json_encode($value) => ["mount./{$value}", 'rw', ['mount', '-o', 'remount,rw', "/{$value}"]];
            yield 'limit of '.json_encode($value) => ['limit.open_files', $value, ['prlimit', "--nofile={$value}", '--pid', '77']];
        }
        yield 'time' => ['time.synchronised', 'yes', ['timedatectl', 'set-ntp', 'true']];
    }

    /**
     * @param  list<string>  $words
     */
    #[DataProvider('words')]
    public function test_a_value_stays_one_word(string $name, string $value, array $words): void
    {
        self::assertSame(implode("\n", $words)."\n", self::shell(SettingCommand::of($name, $value)));
    }

    public function test_files_of_the_kernel_get_what_is_written_and_no_other_file_does(): void
    {
        $random = new Randomizer(new Mt19937(17));
        $letters = ['a', '7', ' ', "'", '"', '$', '`', ';', '|', '>', '<', '\\', '&', '(', ')', '!', '*', '?', '~', '#', '='];
        for ($run = 0; $run < 60; $run++) {
            $value = '';
            for ($length = $random->getInt(1, 12); $length > 0; $length--) {
                $value .= $letters[$random->getInt(0, count($letters) - 1)];
            }
            $command = SettingCommand::of('block.sda.read_ahead_kb', $value);
            self::assertStringEndsWith(' > /sys/block/sda/queue/read_ahead_kb', $command);
            $said = self::shell(str_replace(' > /sys/block/sda/queue/read_ahead_kb', '', $command));
            // An echo of a shell may read a backslash as the begin of a sign.
            if (! str_contains($value, '\\')) {
                self::assertSame("{$value}\n", $said, json_encode($value, JSON_THROW_ON_ERROR));
            }
        }
    }

    public function test_what_no_command_is_known_for_is_a_remark(): void
    {
        foreach (["odd\nname", 'x; reboot', '$(reboot)', 'mariadb.a b', 'block.a/b.scheduler'] as $name) {
            $command = SettingCommand::of($name, 'on');
            self::assertStringStartsWith('# set ', $command);
            self::assertSame('', self::shell($command));
        }
    }

    /**
     * @return iterable<string, array{string, string}> value, literal
     */
    public static function literals(): iterable
    {
        yield 'a number' => ['100', '100'];
        yield 'below nothing' => ['-1', '-1'];
        yield 'a fraction' => ['0.5', '0.5'];
        yield 'a word' => ['ON', "'ON'"];
        yield 'a quote' => ["a'b", "'a''b'"];
        yield 'a backslash' => ['a\\', "'a\\\\'"];
        yield 'a statement' => ['1; DROP TABLE x', "'1; DROP TABLE x'"];
        yield 'a number with more' => ['1e9', "'1e9'"];
        yield 'nothing' => ['', "''"];
    }

    #[DataProvider('literals')]
    public function test_a_value_of_a_server_is_one_literal(string $value, string $literal): void
    {
        self::assertSame("SET GLOBAL some_name = {$literal}", SettingCommand::statement('mariadb.some_name', $value));
        self::assertNull(SettingCommand::statement('vm.swappiness', $value));
        self::assertNull(SettingCommand::statement('mariadb.some name', $value));
        self::assertNull(SettingCommand::statement("mariadb.x\n", $value));
    }

    private static function shell(string $command): string
    {
        $process = proc_open(['bash', '-c', self::STUBS.$command], [1 => ['pipe', 'w'], 2 => ['pipe', 'w']], $pipes);
        self::assertIsResource($process);
        $said = (string) stream_get_contents($pipes[1]);
        self::assertSame('', (string) stream_get_contents($pipes[2]), $command);
        self::assertSame(0, proc_close($process), $command);

        return $said;
    }
}
