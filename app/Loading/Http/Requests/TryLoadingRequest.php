<?php

declare(strict_types=1);

namespace App\Loading\Http\Requests;

use App\Loading\Application\BringFiles;
use App\Platform\Support\OpenFolders;
use Closure;
use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\TypedBytes;
use Illuminate\Foundation\Http\FormRequest;
use InvalidArgumentException;

/**
 * What a form sends to LoadingController::try().
 */
final class TryLoadingRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'files' => ['required', 'integer', 'between:1,500'],
            'least' => ['required', 'string', 'max:40', $this->isBytes(...)],
            'most' => ['required', 'string', 'max:40', $this->isBytes(...), $this->fits(...)],
            'from' => ['nullable', 'string', 'max:400', $this->isFolder(...)],
            'to' => ['nullable', 'string', 'max:400', $this->isFolder(...)],
        ];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'files.*' => 'Between 1 and 500 files are brought.',
            'least.required' => 'Write a size, as 2 MB.',
            'most.required' => 'Write a size, as 8 MB.',
            'from.max' => 'A path has at most 400 characters.',
            'to.max' => 'A path has at most 400 characters.',
        ];
    }

    /**
     * @return array{files: int, least: int, most: int, from: string, to: string}
     */
    public function plan(): array
    {
        $data = $this->validated();

        return ['files' => (int) $data['files'], 'least' => TypedBytes::of($data['least']), 'most' => TypedBytes::of($data['most']),
            'from' => (string) OpenFolders::real($data['from'] ?? ''), 'to' => (string) OpenFolders::real($data['to'] ?? '')];
    }

    private function isBytes(string $field, mixed $value, Closure $fail): void
    {
        if (self::bytes($value) === null) {
            $fail('Write a size, as 2 MB.');
        }
    }

    private function fits(string $field, mixed $value, Closure $fail): void
    {
        [$least, $most] = [self::bytes($this->input('least')), self::bytes($value)];
        if ($least === null || $most === null) {
            return;
        }
        if ($most < $least) {
            $fail('The largest file cannot be smaller than the smallest.');
        } elseif (($least + $most) / 2 * (int) $this->input('files') > BringFiles::MOST_BYTES) {
            $fail('A trial brings at most 512 MB: fewer or smaller files do.');
        }
    }

    /** Only below the folders this installation opens to files. */
    private function isFolder(string $field, mixed $value, Closure $fail): void
    {
        $real = OpenFolders::real(is_string($value) ? $value : '');
        if ($real === null) {
            $roots = implode(' or ', OpenFolders::roots());
            $fail('This is no folder below '.Parts::first($roots, 'those FULCRION_LAKE names, which are none').'.');
        } elseif ($field === 'to' && ! is_writable($real)) {
            $fail('This folder cannot be written to.');
        }
    }

    private static function bytes(mixed $value): ?int
    {
        try {
            return TypedBytes::of(is_string($value) ? $value : '');
        } catch (InvalidArgumentException) {
            return null;
        }
    }
}
