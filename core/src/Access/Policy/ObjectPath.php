<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Policy;

/**
 * Where an object stands in the catalog tree: estate > cluster > schema > table or view > column. Paths are written with
 * dots, in small letters; the estate itself is the word "estate". A name with a dot or a quote in it stands in double
 * quotes.
 */
final readonly class ObjectPath
{
    public const ESTATE = 'estate';

    public const LEVELS = ['estate', 'cluster', 'schema', 'table', 'column'];

    /**
     * @param  list<string>  $parts from the cluster downwards
     */
    public static function of(array $parts): string
    {
        return $parts === []
            ? self::ESTATE
            : implode(
                '.',
                array_map(
                    static fn (string $part): string => strpbrk($part, '."') === false
                        ? strtolower($part)
                        : '"'.str_replace('"', '""', strtolower($part)).'"',
                    $parts,
                ),
            );
    }

    /** The one way to write a path: in small letters, in quotes only where it takes them. */
    public static function normal(string $path): string
    {
        return self::of(self::parts(trim($path)));
    }

    public static function child(string $path, string $name): string
    {
        $part = strpbrk($name, '."') === false ? strtolower($name) : self::of([$name]);

        return $path === self::ESTATE ? $part : "{$path}.{$part}";
    }

    /**
     * @return list<string> from the cluster downwards; none for the estate
     */
    public static function parts(string $path): array
    {
        if ($path === self::ESTATE) {
            return [];
        }
        if (! str_contains($path, '"')) {
            return explode('.', $path);
        }
        preg_match_all('~"((?:[^"]|"")*)"|[^."]+~', $path, $found);
        $parts = [];
        foreach ($found[0] as $i => $part) {
            $parts[] = $part[0] === '"' ? str_replace('""', '"', $found[1][$i]) : $part;
        }

        return $parts;
    }

    public static function parent(string $path): ?string
    {
        if ($path === self::ESTATE) {
            return null;
        }

        if (! str_contains($path, '"')) {
            $at = strrpos($path, '.');

            return $at === false ? self::ESTATE : substr($path, 0, $at);
        }

        return self::of(array_slice(self::parts($path), 0, -1));
    }

    /**
     * @return list<string> from the estate to the object itself
     */
    public static function line(string $path): array
    {
        $line = [self::ESTATE];
        $parts = self::parts($path);
        foreach ($parts as $i => $part) {
            $line[] = self::of(array_slice($parts, 0, $i + 1));
        }

        return $line;
    }

    /** Whether an object is another one or stands below it. */
    public static function within(string $path, string $above): bool
    {
        return $above === self::ESTATE || $path === $above || str_starts_with($path, "{$above}.");
    }

    public static function level(string $path): string
    {
        return self::LEVELS[count(self::parts($path))] ?? 'nothing';
    }

    public static function isWritten(string $path): bool
    {
        return preg_match('~^(?:estate|(?:[^."\s][^."]*|"(?:[^"]|"")+")(?:\.(?:[^."]+|"(?:[^"]|"")+")){0,3})$~u', $path) === 1;
    }
}
