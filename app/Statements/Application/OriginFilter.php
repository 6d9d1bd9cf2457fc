<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Illuminate\Http\Request;

/**
 * Which executions and statements a person wants to see.
 */
final readonly class OriginFilter
{
    public const FLAGS = [
        'no_index' => 'no index used',
        'full_scan' => 'full scan',
        'tmp_disk' => 'temporary tables on disk',
        'multi_pass' => 'multi-pass sorts',
        'errors' => 'errors',
        'warnings' => 'warnings',
        'new' => 'new in this window',
        'slower' => 'slower than the window before',
    ];

    /**
     * @param  list<key-of<self::FLAGS>>  $flags all of them must hold
     */
    public function __construct(
        public string $database = '',
        public string $user = '',
        public string $application = '',
        public string $kind = '',
        public string $words = '',
        public array $flags = [],
    ) {
    }

    public static function of(Request $request): self
    {
        $text = static fn (string $name): string => is_string($request->query($name))
            ? mb_substr(trim($request->query($name)), 0, 190)
            : '';
        $flags = array_values(array_intersect(array_keys(self::FLAGS), (array) $request->query('with', [])));

        return new self($text('database'), $text('user'), $text('application'), $text('kind'), $text('words'), $flags);
    }

    /** @return array<string, string|list<string>> as in the address */
    public function query(): array
    {
        return array_filter(
            [
                'database' => $this->database,
                'user' => $this->user,
                'application' => $this->application,
                'kind' => $this->kind,
                'words' => $this->words,
                'with' => $this->flags,
            ],
            static fn (string|array $value): bool => $value !== '' && $value !== [],
        );
    }

    public function isEmpty(): bool
    {
        return $this->query() === [];
    }

    public function byOrigin(): bool
    {
        return $this->database !== '' || $this->user !== '' || $this->application !== '';
    }
}
