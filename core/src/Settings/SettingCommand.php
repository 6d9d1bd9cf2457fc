<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * The command that sets a setting until the next start, and what keeps it.
 */
final class SettingCommand
{
    /** Of a live server: its variable begins so. */
    public const SERVER = 'mariadb.';

    private const VARIABLE = '~^mariadb\.([a-z0-9_]+)$~D';

    /** The statement for a variable of a server; null where the setting is none. */
    public static function statement(string $name, string $value): ?string
    {
        return preg_match(self::VARIABLE, $name, $match) === 1 ? "SET GLOBAL {$match[1]} = ".self::literal($value) : null;
    }

    /** For a shell, as root; the variable of a server as its statement. */
    public static function of(string $name, string $value): string
    {
        $quoted = self::quoted($value);

        return self::statement($name, $value) ?? match (true) {
            isset(SettingText::VALUES[$name]) => "sysctl -w {$name}={$quoted}",
            isset(SettingText::CHOICES[$name]) => "echo {$quoted} > ".SettingText::CHOICES[$name],
            preg_match('~^block\.([\w!-]+)\.(read_ahead_kb|scheduler)$~D', $name, $match) === 1
                => "echo {$quoted} > /sys/block/{$match[1]}/queue/{$match[2]}",
            str_starts_with($name, 'mount.') => 'mount -o '.self::quoted("remount,{$value}").' '.self::quoted(substr($name, 6)),
            $name === 'limit.open_files' => 'prlimit --nofile='.$quoted.' --pid "$(pidof -s mariadbd)"',
            $name === 'time.synchronised' => 'timedatectl set-ntp true',
            default => '# set '.preg_replace('~[^\w.*/-]~', '_', $name)." to {$quoted}",
        };
    }

    /** Where to write it down so that it is the same after the next start. */
    public static function kept(string $name): string
    {
        return match (true) {
            str_starts_with($name, self::SERVER) => 'the configuration of the server, below [mariadbd]',
            isset(SettingText::VALUES[$name]) => 'a file in /etc/sysctl.d',
            isset(SettingText::CHOICES[$name]) => 'the command line of the kernel or a unit that runs at its start',
            str_starts_with($name, 'block.') => 'a rule of udev for the disk',
            str_starts_with($name, 'mount.') => '/etc/fstab',
            $name === 'limit.open_files' => 'LimitNOFILE in the unit of the server',
            default => 'the configuration of the host',
        };
    }

    private static function literal(string $value): string
    {
        return preg_match('~^-?\d+(\.\d+)?$~D', $value) === 1 ? $value
            : "'".str_replace(['\\', "'"], ['\\\\', "''"], $value)."'";
    }

    private static function quoted(string $value): string
    {
        return preg_match('~^[\w.,:=/-]+$~D', $value) === 1 ? $value : "'".str_replace("'", "'\\''", $value)."'";
    }
}
