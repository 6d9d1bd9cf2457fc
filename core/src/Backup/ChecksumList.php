<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

/**
 * SHA-256 of files, a line each, as sha256sum of the GNU core utilities writes and checks them: 64 hexadecimal digits, a blank, a blank or
 * an asterisk, and the name. A line that begins with a backslash writes those of its name, and ends of lines in it, with one before.
 */
final readonly class ChecksumList
{
    public const NAME = 'SHA256SUMS';

    /**
     * @param  array<string, string>  $digests lower-case hexadecimal, by the name of the file below the folder of the list
     * @param  list<string>  $complaints each with its line
     */
    private function __construct(public array $digests, public array $complaints)
    {
    }

    public static function read(string $text): self
    {
        $digests = $complaints = [];
        foreach (explode("\n", $text) as $place => $line) {
            $line = rtrim($line, "\r");
            if ($line === '') {
                continue;
            }
            $at = 'Line '.($place + 1).': ';
            if (preg_match('~^(\\\\?)([0-9a-f]{64}) [ *](.+)$~Dis', $line, $found) !== 1) {
                $complaints[] = "{$at}this is not a checksum of SHA-256 with the name of a file.";

                continue;
            }
            $name = $found[1] === '' ? $found[3]
                : strtr($found[3], ['\\\\' => '\\', '\\n' => "\n", '\\r' => "\r"]);
            $name = str_starts_with($name, './') ? substr($name, 2) : $name;
            $digest = strtolower($found[2]);
            if (str_starts_with($name, '/') || in_array('..', explode('/', $name), true)) {
                $complaints[] = "{$at}the file lies outside the folder of the list.";
            } elseif (isset($digests[$name]) && $digests[$name] !== $digest) {
                $complaints[] = "{$at}this file has two different checksums.";
            } else {
                $digests[$name] = $digest;
            }
        }

        return new self($digests, $complaints);
    }
}
