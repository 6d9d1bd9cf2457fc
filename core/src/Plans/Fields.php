<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * Reads values of decoded JSON by type; what is missing or of another type is empty or null.
 *
 * @internal
 */
final readonly class Fields
{
    /**
     * @param  array<array-key, mixed>  $values
     */
    public function __construct(private array $values)
    {
    }

    public static function of(mixed $value): self
    {
        return new self(is_array($value) ? $value : []);
    }

    public function has(string $name): bool
    {
        return isset($this->values[$name]);
    }

    public function text(string $name): string
    {
        return $this->maybeText($name) ?? '';
    }

    public function maybeText(string $name): ?string
    {
        $value = $this->values[$name] ?? null;

        return is_string($value) ? $value : (is_int($value) || is_float($value) ? (string) $value : null);
    }

    public function int(string $name): int
    {
        return $this->maybeInt($name) ?? 0;
    }

    public function maybeInt(string $name): ?int
    {
        $value = $this->maybeFloat($name);

        return $value === null || abs($value) > 9e18 ? null : (int) round($value);
    }

    public function maybeFloat(string $name): ?float
    {
        $value = $this->values[$name] ?? null;

        return is_int($value) || is_float($value) ? (float) $value : (is_string($value) && is_numeric($value) ? (float) $value : null);
    }

    public function bool(string $name): bool
    {
        return ($this->values[$name] ?? false) === true;
    }

    public function inner(string $name): self
    {
        return self::of($this->values[$name] ?? null);
    }

    /**
     * @return list<self>
     */
    public function list(string $name): array
    {
        $list = $this->values[$name] ?? [];

        return is_array($list) ? array_map(self::of(...), array_values($list)) : [];
    }

    /**
     * @return list<string>
     */
    public function texts(string $name): array
    {
        $list = $this->values[$name] ?? [];

        return is_array($list) ? array_values(array_filter($list, is_string(...))) : [];
    }

    /**
     * @return array<string, string>
     */
    public function textMap(string $name): array
    {
        $map = [];
        $list = $this->values[$name] ?? [];
        foreach (is_array($list) ? $list : [] as $key => $value) {
            if (is_string($value)) {
                $map[(string) $key] = $value;
            }
        }

        return $map;
    }

    /**
     * @return list<string>
     */
    public function names(): array
    {
        return array_map(strval(...), array_keys($this->values));
    }

    /**
     * @return array<string, mixed>
     */
    public function named(): array
    {
        $named = [];
        foreach ($this->values as $name => $value) {
            $named[(string) $name] = $value;
        }

        return $named;
    }
}
