<?php

declare(strict_types=1);

namespace App\Access\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to DraftController::publish().
 */
final class PublishDraftRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['comment' => ['required', 'string', 'min:3', 'max:1000'], 'digest' => ['required', 'string', 'size:32']];
    }

    /**
     * @return array<string, string>
     */
    public function messages(): array
    {
        return [
            'comment.required' => 'Say in a few words why; it stands beside the version for ever.',
            'comment.min' => 'Say it in a few words.',
        ];
    }
}
